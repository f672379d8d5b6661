package dev.brume.jdbc;

import java.io.IOException;
import java.net.Socket;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * A visitor's way to the owner of an embedded database: H2's client connects to it, in its own process, and it passes everything on over a
 * connection to somebody who has proved that they know the secret. Safe for use by many threads.
 */
final class Passage implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Passage.class);

    /** More than any pool has. */
    private static final int MOST_CONNECTIONS = 1000;

    private final String secret;
    private final Door door;
    private volatile int owner;

    Passage(String secret) throws IOException {
        this.secret = secret;
        this.door = new Door("brume-passage", MOST_CONNECTIONS, this::pass);
    }

    /** Says at which port the owner listens now; {@return where to connect to} */
    int to(int ownersPort) {
        owner = ownersPort;
        return door.port();
    }

    /** Where the owner is not whom they should be, H2's client finds its connection closed, and says so. */
    private void pass(Socket own) throws IOException {
        try (own;
                Socket theirs = Handshake.visit(owner, secret)) {
            own.setTcpNoDelay(true);
            Door.start("brume-passage-back", () -> pump(theirs, own));
            pump(own, theirs);
        }
    }

    /** Until either side ends; then both do. */
    private static void pump(Socket from, Socket to) {
        try (from;
                to) {
            from.getInputStream().transferTo(to.getOutputStream());
        } catch (IOException e) {
            LOG.debug("a passage ended", e);
        }
    }

    @Override
    public void close() {
        door.close();
    }
}
