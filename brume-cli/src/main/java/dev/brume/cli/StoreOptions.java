package dev.brume.cli;

import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import dev.brume.StoreException;
import dev.brume.history.History;
import dev.brume.internal.text.Texts;
import dev.brume.jdbc.EmbeddedDatabase;
import dev.brume.jdbc.JdbcStore;
import java.nio.file.Path;
import java.sql.SQLException;
import java.time.Duration;
import java.util.Objects;
import java.util.Optional;
import java.util.function.Function;
import java.util.function.UnaryOperator;
import java.util.logging.Level;
import java.util.logging.Logger;
import javax.sql.DataSource;
import org.h2.jdbcx.JdbcDataSource;
import org.jspecify.annotations.Nullable;
import org.mariadb.jdbc.MariaDbDataSource;
import org.postgresql.ds.PGSimpleDataSource;
import picocli.CommandLine.Option;

/** Which database a command works on. */
final class StoreOptions {
    private static final String FOLDER = "brume-data";

    /** Held, since levels are forgotten with loggers that nobody holds. */
    private static final Logger DRIVERS_LOG = Logger.getLogger("org.postgresql");

    @Option(
            names = "--database",
            paramLabel = "JDBC-URL",
            defaultValue = "${env:BRUME_DATABASE}",
            description = "A database server, such as jdbc:postgresql://host/name?user=u&password=p."
                    + " Environment: BRUME_DATABASE.")
    void database(@Nullable String url) {
        database = isUnset(url) ? null : url;
    }

    @Option(
            names = "--data",
            paramLabel = "FOLDER",
            defaultValue = "${env:BRUME_DATA:-brume-data}",
            description = "The folder of the embedded database, used unless --database is given."
                    + " Environment: BRUME_DATA; default: ${DEFAULT-VALUE}.")
    void data(String folder) {
        data = Path.of(isUnset(folder) ? FOLDER : folder);
    }

    @Option(
            names = "--schema",
            paramLabel = "NAME",
            defaultValue = "${env:BRUME_SCHEMA}",
            description = "The database schema that holds the tables; the connection's own unless given."
                    + " Environment: BRUME_SCHEMA.")
    void schema(@Nullable String name) {
        schema = isUnset(name) ? null : name;
    }

    private @Nullable String database;
    private Path data = Path.of(FOLDER);
    private @Nullable String schema;

    /** A variable that is empty says nothing. */
    private static boolean isUnset(@Nullable String value) {
        return value == null || value.isBlank();
    }

    /** A store and what must be closed with it. */
    record OpenStore(JdbcStore store, Runnable closing) implements AutoCloseable {
        @Override
        public void close() {
            closing.run();
        }
    }

    /** {@return whether a database was named, or one is in the folder} */
    boolean isThere() {
        return database != null || EmbeddedDatabase.isIn(data);
    }

    /**
     * Opens the store to look at it; nothing is created. Looks once more if whoever owned an embedded database left meanwhile.
     *
     * @param looking that may be done twice
     */
    <T> T look(Function<History, T> looking) {
        try {
            return lookOnce(looking);
        } catch (StoreException e) {
            if (database != null || e.trouble() != StoreException.Trouble.UNREACHABLE) {
                throw e;
            }
            return lookOnce(looking);
        }
    }

    /** Opens the store to look at it a single time. */
    <T> T lookOnce(Function<History, T> looking) {
        mustBeThere("'brume demo' makes one to look at");
        try (OpenStore open =
                open(EmbeddedDatabase.Role.VISITOR, 1, JdbcStore.LIMIT, JdbcStore.Builder::withoutSchemaChanges)) {
            open.store().prepare();
            return looking.apply(open.store().history());
        }
    }

    private void mustBeThere(String otherwise) {
        if (!isThere()) {
            throw new UsageException(
                    "there is no database in folder " + data.toAbsolutePath().normalize()
                            + " (give --data FOLDER or --database JDBC-URL; " + otherwise + ")");
        }
    }

    /** Opens the store to work on it. */
    OpenStore host(int connections, Duration lease) {
        Duration limit = lease.multipliedBy(2).dividedBy(3);
        return open(
                EmbeddedDatabase.Role.HOST,
                connections,
                limit.compareTo(JdbcStore.LIMIT) < 0 ? limit : JdbcStore.LIMIT,
                UnaryOperator.identity());
    }

    /** Opens the store that is there, to look at it and to change it for a while. */
    OpenStore stay(int connections) {
        mustBeThere("'brume serve' makes one, as 'brume sync --create FILE' does");
        return open(EmbeddedDatabase.Role.HOST, connections, JdbcStore.LIMIT, JdbcStore.Builder::withoutCreating);
    }

    /** {@return the folder of the embedded database, or this one} */
    Path folder() {
        return database == null ? data : Path.of("");
    }

    /** Opens the store to change something and leave; an order that means another place than it says makes nothing there. */
    OpenStore visit() {
        mustBeThere("'brume serve' makes one, as 'brume sync --create FILE' does");
        return open(EmbeddedDatabase.Role.VISITOR, 1, JdbcStore.LIMIT, JdbcStore.Builder::withoutCreating);
    }

    /** Opens the store to change something and leave, making it if there is none. */
    OpenStore visitOrMake() {
        return open(EmbeddedDatabase.Role.VISITOR, 1, JdbcStore.LIMIT, UnaryOperator.identity());
    }

    private OpenStore open(
            EmbeddedDatabase.Role role, int connections, Duration limit, UnaryOperator<JdbcStore.Builder> manner) {
        if (database == null) {
            EmbeddedDatabase embedded = EmbeddedDatabase.open(data, role).opened();
            return pooled(
                    embedded, builder(embedded.description(), limit, manner), connections, limit, embedded::close);
        }
        return pooled(dataSource(limit), builder(description(), limit, manner), connections, limit, () -> {});
    }

    private OpenStore pooled(
            DataSource source,
            Function<DataSource, JdbcStore> store,
            int connections,
            Duration limit,
            Runnable closing) {
        if (connections == 1) {
            return new OpenStore(store.apply(source), closing);
        }
        HikariDataSource pool = pool(source, connections, limit);
        return new OpenStore(store.apply(pool), () -> {
            pool.close();
            closing.run();
        });
    }

    /** Keeps connections open for the next to use them. */
    static HikariDataSource pool(DataSource source, int connections, Duration limit) {
        HikariConfig config = new HikariConfig();
        config.setDataSource(source);
        config.setPoolName("brume");
        config.setMaximumPoolSize(connections);
        config.setMinimumIdle(1);
        config.setConnectionTimeout(Math.max(250, limit.toMillis()));
        config.setInitializationFailTimeout(-1);
        config.setExceptionOverrideClassName(BrokenConnections.class.getName());
        return new HikariDataSource(config);
    }

    private Function<DataSource, JdbcStore> builder(
            String description, Duration limit, UnaryOperator<JdbcStore.Builder> manner) {
        return source -> {
            JdbcStore.Builder builder =
                    JdbcStore.builder(source).description(description).limit(limit);
            try {
                Optional.ofNullable(schema).ifPresent(builder::schema);
            } catch (IllegalArgumentException e) {
                throw new UsageException(e);
            }
            return manner.apply(builder).build();
        };
    }

    private DataSource dataSource(Duration limit) {
        String database = Objects.requireNonNull(this.database, "--database");
        if (database.startsWith("jdbc:postgresql:")) {
            // The driver logs URLs that it cannot read, passwords and all.
            DRIVERS_LOG.setLevel(Level.OFF);
            PGSimpleDataSource postgres = new PGSimpleDataSource();
            postgres.setConnectTimeout(5);
            postgres.setSocketTimeout((int) limit.toSeconds() + 2);
            postgres.setTcpKeepAlive(true);
            postgres.setApplicationName("brume");
            try {
                postgres.setURL(database);
            } catch (IllegalArgumentException e) {
                throw new UsageException("--database '" + description() + "' is not a JDBC URL (expected"
                        + " jdbc:postgresql://host:port/name?user=u&password=p)");
            }
            return postgres;
        }
        if (database.startsWith("jdbc:mariadb:")) {
            try {
                return new MariaDbDataSource(mariadbUrl(database));
            } catch (SQLException e) {
                throw new UsageException("--database '" + description() + "' is not a JDBC URL (expected"
                        + " jdbc:mariadb://host:port/name?user=u&password=p)");
            }
        }
        if (database.startsWith("jdbc:h2:")) {
            JdbcDataSource h2 = new JdbcDataSource();
            h2.setURL(database);
            return h2;
        }
        throw new UsageException("--database '" + description() + "' is not supported (expected jdbc:postgresql:...,"
                + " jdbc:mariadb:... or jdbc:h2:...)");
    }

    private static String mariadbUrl(String database) {
        return database.contains("connectTimeout=")
                ? database
                : database + (database.contains("?") ? "&" : "?") + "connectTimeout=5000";
    }

    /** The URL without what may be secret, or the folder. */
    String description() {
        if (database == null) {
            return "the embedded database in " + data.toAbsolutePath().normalize();
        }
        return Texts.withoutPasswords(database).replaceAll("[?;].*", "").replaceAll("^(jdbc:\\w*:|.*//).*@", "$1");
    }
}
