package dev.brume.jdbc;

import java.io.IOException;
import java.net.ServerSocket;
import java.sql.SQLException;
import org.h2.server.TcpServer;

/** H2's server behind a {@link Reception}: there is no port at which anybody reaches it directly. */
final class SharedServer implements AutoCloseable {
    private final TcpServer server = new TcpServer();
    private final Reception reception;

    private SharedServer(Reception reception) {
        this.reception = reception;
    }

    /**
     * Begins to serve a database.
     *
     * @param key what visitors call it by
     * @param path where it is, as H2 names it
     * @throws IOException if it cannot listen
     * @throws ReflectiveOperationException if this version of H2 is built in another way
     */
    static SharedServer start(String secret, String key, String path)
            throws IOException, SQLException, ReflectiveOperationException {
        SharedServer shared = new SharedServer(new Reception(secret));
        try {
            shared.begin(key, path);
            return shared;
        } catch (IOException | SQLException | ReflectiveOperationException | RuntimeException e) {
            shared.reception.close();
            throw e;
        }
    }

    private void begin(String key, String path) throws IOException, SQLException, ReflectiveOperationException {
        server.init("-tcpPort", "0", "-tcpDaemon", "-key", key, path);
        server.start();
        try {
            var listening = TcpServer.class.getDeclaredField("serverSocket");
            listening.setAccessible(true);
            ServerSocket own = (ServerSocket) listening.get(server);
            listening.set(server, reception);
            own.close();
        } catch (ReflectiveOperationException e) {
            server.stop();
            throw e;
        }
        Door.start("brume-h2", server::listen);
    }

    /** {@return where visitors are received} */
    int port() {
        return reception.getLocalPort();
    }

    @Override
    public void close() {
        server.stop();
    }
}
