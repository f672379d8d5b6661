package dev.brume.notices;

import java.io.IOException;
import java.net.InetAddress;
import java.net.Socket;
import java.util.ArrayList;
import java.util.List;
import javax.net.SocketFactory;

/**
 * Makes the connections of one delivery, all of which are closed at once when its time is over: so it ends, however slowly the other side answers. Safe
 * for use by many threads.
 */
final class BoundedSockets extends SocketFactory {
    private final List<Socket> made = new ArrayList<>();
    private boolean over;

    /** Ends the delivery. */
    synchronized void end() throws IOException {
        over = true;
        for (Socket socket : made) {
            socket.close();
        }
    }

    /** {@return whether it was ended} */
    synchronized boolean isOver() {
        return over;
    }

    @Override
    public Socket createSocket() throws IOException {
        return kept(new Socket());
    }

    @Override
    public Socket createSocket(String host, int port) throws IOException {
        return kept(new Socket(host, port));
    }

    @Override
    public Socket createSocket(String host, int port, InetAddress from, int fromPort) throws IOException {
        return kept(new Socket(host, port, from, fromPort));
    }

    @Override
    public Socket createSocket(InetAddress host, int port) throws IOException {
        return kept(new Socket(host, port));
    }

    @Override
    public Socket createSocket(InetAddress host, int port, InetAddress from, int fromPort) throws IOException {
        return kept(new Socket(host, port, from, fromPort));
    }

    private synchronized Socket kept(Socket socket) throws IOException {
        made.add(socket);
        if (over) {
            socket.close();
        }
        return socket;
    }
}
