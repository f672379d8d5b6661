package dev.brume.jdbc;

import java.io.IOException;
import java.net.ServerSocket;
import java.net.Socket;
import java.net.SocketException;
import java.util.Objects;
import java.util.Optional;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.Semaphore;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Where the owner of an embedded database receives visitors: what H2's server takes for its listening socket gives it those connections alone
 * whose other end has proved that it knows the secret. Strangers are hung up on; what they announce is never read.
 */
final class Reception extends ServerSocket {
    private static final Logger LOG = LoggerFactory.getLogger(Reception.class);
    private static final int BACKLOG = 50;
    private static final int MOST_BEING_RECEIVED = 32;

    private final String secret;
    private final Semaphore places = new Semaphore(MOST_BEING_RECEIVED);
    private final BlockingQueue<Optional<Socket>> received = new LinkedBlockingQueue<>();

    /** Begins to listen, on a port of the loopback address that the system chooses. */
    Reception(String secret) throws IOException {
        super(0, BACKLOG, Handshake.LOOPBACK);
        this.secret = Objects.requireNonNull(secret, "secret");
        start("brume-reception", this::listen);
    }

    private static void start(String name, Runnable work) {
        Thread thread = new Thread(work, name);
        thread.setDaemon(true);
        thread.start();
    }

    private void listen() {
        while (!isClosed()) {
            try {
                Socket visitor = super.accept();
                if (Peers.isStranger(visitor) || !places.tryAcquire()) {
                    visitor.close();
                } else {
                    start("brume-visitor", () -> receive(visitor));
                }
            } catch (IOException | Error e) {
                if (!isClosed()) {
                    LOG.warn("a visitor of the database could not be received: {}", e.toString());
                }
            }
        }
    }

    private void receive(Socket visitor) {
        try {
            Handshake.receive(visitor, secret, getLocalPort());
            received.add(Optional.of(visitor));
        } catch (IOException e) {
            LOG.debug("a visitor of the database was not let in: {}", e.toString());
            hangUp(visitor);
        } finally {
            places.release();
        }
    }

    private static void hangUp(Socket socket) {
        try {
            socket.close();
        } catch (IOException e) {
            LOG.debug("a connection was broken already", e);
        }
    }

    /** {@return the next visitor that has been let in} */
    @Override
    public Socket accept() throws IOException {
        try {
            return received.take().orElseThrow(() -> new SocketException("the database is not shared any more"));
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new SocketException("interrupted");
        }
    }

    @Override
    public void close() throws IOException {
        super.close();
        // The superclass may close while it is being made.
        if (received != null) {
            received.add(Optional.empty());
        }
    }
}
