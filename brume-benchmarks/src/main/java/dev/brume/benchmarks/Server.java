package dev.brume.benchmarks;

import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import dev.brume.jdbc.JdbcStore;
import io.zonky.test.db.postgres.embedded.EmbeddedPostgres;
import java.io.IOException;
import java.sql.Connection;
import java.sql.SQLException;
import org.postgresql.ds.PGSimpleDataSource;

/** A PostgreSQL server with durable commits, its own or the one {@code BRUME_TEST_POSTGRES} names. */
final class Server implements AutoCloseable {
    private final EmbeddedPostgres embedded;
    private final String url;

    Server() throws IOException {
        String given = System.getenv("BRUME_TEST_POSTGRES");
        if (given != null && !given.isBlank()) {
            embedded = null;
            url = given;
        } else {
            embedded = EmbeddedPostgres.builder()
                    .setServerConfig("fsync", "on")
                    .setServerConfig("synchronous_commit", "on")
                    .setServerConfig("full_page_writes", "on")
                    .setServerConfig("shared_buffers", "1GB")
                    .setServerConfig("max_wal_size", "4GB")
                    .setServerConfig("autovacuum_naptime", "5s")
                    .start();
            url = embedded.getJdbcUrl("postgres", "postgres");
        }
    }

    HikariDataSource pool(int size) {
        PGSimpleDataSource source = new PGSimpleDataSource();
        source.setURL(url);
        HikariConfig config = new HikariConfig();
        config.setDataSource(source);
        config.setMaximumPoolSize(size);
        return new HikariDataSource(config);
    }

    /** Makes a schema afresh and returns a store in it. */
    JdbcStore freshStore(HikariDataSource pool, String schema) throws SQLException {
        try (Connection connection = pool.getConnection();
                var statement = connection.createStatement()) {
            statement.execute("drop schema if exists " + schema + " cascade");
        }
        JdbcStore store = JdbcStore.builder(pool).schema(schema).build();
        store.prepare();
        return store;
    }

    @Override
    public void close() throws IOException {
        if (embedded != null) {
            embedded.close();
        }
    }
}
