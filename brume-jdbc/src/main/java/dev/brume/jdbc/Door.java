package dev.brume.jdbc;

import java.io.IOException;
import java.net.ServerSocket;
import java.net.Socket;
import java.time.Duration;
import java.util.concurrent.Semaphore;
import java.util.concurrent.locks.LockSupport;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Listens on a port of the loopback address that the system chooses, and gives each connection of this user's to a thread of its own. Safe for use by
 * many threads.
 */
final class Door implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Door.class);
    private static final int BACKLOG = 50;
    private static final Duration AFTER_TROUBLE = Duration.ofMillis(100);

    private final String name;
    private final Semaphore places;
    private final Guest guest;
    private final ServerSocket listener;

    /** What is done with a connection, which it is to close. */
    interface Guest {
        void on(Socket socket) throws IOException;
    }

    /**
     * Opens it.
     *
     * @param name of its threads
     * @param most how many connections are dealt with at once; others are hung up on
     */
    Door(String name, int most, Guest guest) throws IOException {
        this.name = name;
        this.places = new Semaphore(most);
        this.guest = guest;
        this.listener = new ServerSocket(0, BACKLOG, Handshake.LOOPBACK);
        start(name, this::listen);
    }

    /** {@return where it listens} */
    int port() {
        return listener.getLocalPort();
    }

    static void start(String name, Runnable work) {
        Thread thread = new Thread(work, name);
        thread.setDaemon(true);
        thread.start();
    }

    /** No thread may be left for a connection, or no descriptor: the next is waited for all the same. */
    private void listen() {
        while (!listener.isClosed()) {
            try {
                receive(listener.accept());
            } catch (IOException | Error e) {
                if (!listener.isClosed()) {
                    LOG.warn("{}: a connection could not be received: {}", name, e.toString());
                    LockSupport.parkNanos(AFTER_TROUBLE.toNanos());
                }
            }
        }
    }

    private void receive(Socket socket) {
        if (Peers.isStranger(socket) || !places.tryAcquire()) {
            hangUp(socket);
            return;
        }
        try {
            start(name + "-guest", () -> deal(socket));
        } catch (Error e) {
            places.release();
            hangUp(socket);
            throw e;
        }
    }

    private void deal(Socket socket) {
        try {
            guest.on(socket);
        } catch (IOException e) {
            LOG.debug("{}: a connection ended: {}", name, e.toString());
            hangUp(socket);
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

    @Override
    public void close() {
        try {
            listener.close();
        } catch (IOException e) {
            LOG.debug("{} was closed already", name, e);
        }
    }
}
