package dev.brume.tests.chaos;

import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;

/** Stands between an instance and its database, and can be cut. */
public final class TcpProxy implements AutoCloseable {
    private final ServerSocket server;
    private final int target;
    private final Set<Socket> open = ConcurrentHashMap.newKeySet();
    private volatile boolean cut;
    private volatile boolean swallows;

    public TcpProxy(int target) throws IOException {
        this.target = target;
        this.server = new ServerSocket(0, 50, InetAddress.getLoopbackAddress());
        daemon(this::accept);
    }

    public int port() {
        return server.getLocalPort();
    }

    /** Ends all connections and lets none in. */
    void cut() throws IOException {
        cut = true;
        for (Socket socket : open) {
            socket.close();
        }
        open.clear();
    }

    public void mend() {
        cut = false;
        swallows = false;
    }

    /** Lets what is sent vanish from now on, on connections that stay open. */
    public void swallow() {
        swallows = true;
    }

    private static void daemon(Runnable task) {
        Thread thread = new Thread(task, "tcp-proxy");
        thread.setDaemon(true);
        thread.start();
    }

    private void accept() {
        while (!server.isClosed()) {
            try {
                Socket near = server.accept();
                if (cut) {
                    near.close();
                    continue;
                }
                connect(near);
            } catch (IOException e) {
                // Closed, or the database is away for now: whoever connects tries again.
            }
        }
    }

    private void connect(Socket near) throws IOException {
        Socket far;
        try {
            far = new Socket(InetAddress.getLoopbackAddress(), target);
        } catch (IOException e) {
            near.close();
            throw e;
        }
        near.setTcpNoDelay(true);
        far.setTcpNoDelay(true);
        open.add(near);
        open.add(far);
        daemon(() -> pump(near, far));
        daemon(() -> pump(far, near));
    }

    private void pump(Socket from, Socket to) {
        byte[] buffer = new byte[16 * 1024];
        try (from;
                to) {
            InputStream in = from.getInputStream();
            OutputStream out = to.getOutputStream();
            for (int count = in.read(buffer); count >= 0; count = in.read(buffer)) {
                if (!swallows) {
                    out.write(buffer, 0, count);
                }
            }
        } catch (IOException e) {
            // One side has gone; closing both tells the other.
        }
        open.remove(from);
        open.remove(to);
    }

    @Override
    public void close() throws IOException {
        server.close();
        cut();
    }
}
