package dev.brume.jdbc;

import java.io.IOException;
import java.net.ServerSocket;
import java.net.Socket;
import java.net.SocketException;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;

/**
 * Where the owner of an embedded database receives visitors: what H2's server takes for its listening socket gives it those connections alone
 * whose other end has proved that it knows the secret. Strangers are hung up on; what they announce is never read.
 */
final class Reception extends ServerSocket {
    private static final int MOST_BEING_RECEIVED = 32;

    private final String secret;
    private final BlockingQueue<Optional<Socket>> received = new LinkedBlockingQueue<>();
    private final Door door;

    /** Whether nobody is received any more; under the lock of the queue. */
    private boolean over;

    Reception(String secret) throws IOException {
        this.secret = secret;
        this.door = new Door("brume-reception", MOST_BEING_RECEIVED, this::receive);
    }

    private void receive(Socket visitor) throws IOException {
        Handshake.receive(visitor, secret, visitor.getLocalPort());
        synchronized (received) {
            if (over) {
                throw new SocketException("the database is not shared any more");
            }
            received.add(Optional.of(visitor));
        }
    }

    @Override
    public int getLocalPort() {
        return door.port();
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
        door.close();
        List<Optional<Socket>> left = new ArrayList<>();
        synchronized (received) {
            over = true;
            received.drainTo(left);
            received.add(Optional.empty());
        }
        // Nobody will answer them.
        for (Optional<Socket> visitor : left) {
            if (visitor.isPresent()) {
                visitor.get().close();
            }
        }
    }
}
