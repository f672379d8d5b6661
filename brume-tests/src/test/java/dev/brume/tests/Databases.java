package dev.brume.tests;

import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import io.zonky.test.db.postgres.embedded.EmbeddedPostgres;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.util.concurrent.atomic.AtomicInteger;
import javax.sql.DataSource;
import org.h2.jdbcx.JdbcDataSource;
import org.postgresql.ds.PGSimpleDataSource;

/**
 * Real databases for tests, one PostgreSQL server for the whole build.
 *
 * <p>Set {@code BRUME_TEST_POSTGRES} to a JDBC URL to use a server that runs already.
 */
final class Databases {
    private static final AtomicInteger COUNT = new AtomicInteger();

    private Databases() {}

    private static final class Server {
        private static final String URL = start();

        private static String start() {
            String given = System.getenv("BRUME_TEST_POSTGRES");
            if (given != null && !given.isBlank()) {
                return given;
            }
            try {
                // Durable, or what the tests say about crashes would mean nothing.
                EmbeddedPostgres server = EmbeddedPostgres.builder()
                        .setServerConfig("fsync", "on")
                        .setServerConfig("synchronous_commit", "on")
                        .setServerConfig("full_page_writes", "on")
                        .setServerConfig("max_connections", "200")
                        .start();
                return server.getJdbcUrl("postgres", "postgres");
            } catch (IOException e) {
                throw new UncheckedIOException("the embedded PostgreSQL did not start", e);
            }
        }
    }

    /** Returns the URL of the PostgreSQL server. */
    static String postgresUrl() {
        return Server.URL;
    }

    /** Returns a name no other test uses. */
    static String freshName() {
        return "t" + ProcessHandle.current().pid() + "_" + System.nanoTime() % 1_000_000_000 + "_"
                + COUNT.incrementAndGet();
    }

    /** Opens a pool on the PostgreSQL server. */
    static HikariDataSource postgres() {
        PGSimpleDataSource source = new PGSimpleDataSource();
        source.setURL(postgresUrl());
        return pool(source);
    }

    /** Opens a pool on a fresh H2 database in memory. */
    static HikariDataSource h2() {
        JdbcDataSource source = new JdbcDataSource();
        source.setURL("jdbc:h2:mem:" + freshName() + ";DB_CLOSE_DELAY=-1");
        return pool(source);
    }

    private static HikariDataSource pool(DataSource source) {
        HikariConfig config = new HikariConfig();
        config.setDataSource(source);
        config.setMaximumPoolSize(12);
        config.setMinimumIdle(0);
        return new HikariDataSource(config);
    }
}
