package dev.brume.jdbc;

import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.net.ServerSocket;
import java.net.Socket;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * A visitor's way to the owner of an embedded database: H2's client connects to it, in its own process, and it passes everything on over a
 * connection to somebody who has proved that they know the secret. Safe for use by many threads.
 */
final class Passage implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Passage.class);
    private static final int BACKLOG = 50;

    private final String secret;
    private final ServerSocket listener;
    private volatile int owner;

    Passage(String secret) throws IOException {
        this.secret = secret;
        this.listener = new ServerSocket(0, BACKLOG, Handshake.LOOPBACK);
        start("brume-passage", this::listen);
    }

    /** Says at which port the owner listens now; {@return where to connect to} */
    int to(int ownersPort) {
        owner = ownersPort;
        return listener.getLocalPort();
    }

    private static void start(String name, Runnable work) {
        Thread thread = new Thread(work, name);
        thread.setDaemon(true);
        thread.start();
    }

    private void listen() {
        while (!listener.isClosed()) {
            try {
                Socket own = listener.accept();
                if (Peers.isStranger(own)) {
                    own.close();
                } else {
                    start("brume-passage-out", () -> pass(own));
                }
            } catch (IOException | Error e) {
                if (!listener.isClosed()) {
                    LOG.warn("a connection to the owner of the database could not be made: {}", e.toString());
                }
            }
        }
    }

    private void pass(Socket own) {
        try (own;
                Socket theirs = Handshake.visit(owner, secret)) {
            own.setTcpNoDelay(true);
            start("brume-passage-in", () -> pump(theirs, own));
            pump(own, theirs);
        } catch (IOException e) {
            // H2's client finds its connection closed, and says so.
            LOG.debug("no passage to port {}: {}", owner, e.toString());
        }
    }

    /** Until either side ends; then both do. */
    private static void pump(Socket from, Socket to) {
        try (from;
                to) {
            InputStream in = from.getInputStream();
            OutputStream out = to.getOutputStream();
            in.transferTo(out);
        } catch (IOException e) {
            LOG.debug("a passage ended", e);
        }
    }

    @Override
    public void close() {
        try {
            listener.close();
        } catch (IOException e) {
            LOG.debug("the passage was closed already", e);
        }
    }
}
