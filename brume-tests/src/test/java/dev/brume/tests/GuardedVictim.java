package dev.brume.tests;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Outcome;
import dev.brume.history.LeaseKey;
import dev.brume.jdbc.JdbcStore;
import dev.brume.spi.RunEnd;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Proxy;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import javax.sql.DataSource;
import org.mariadb.jdbc.MariaDbDataSource;
import org.postgresql.ds.PGSimpleDataSource;

/**
 * A process that ends a run in a guarded transaction and is cut off, as by a power switch, right before the n-th thing it
 * asks of the database.
 */
final class GuardedVictim {
    static final int CUT_OFF = 42;

    private static final Set<String> STEPS =
            Set.of("execute", "executeQuery", "executeUpdate", "executeBatch", "commit", "setAutoCommit", "close");

    private static int left = Integer.MAX_VALUE;

    private GuardedVictim() {}

    /** Takes the database's URL, its schema or nothing, run, session and fence of the lease, and the step it dies before. */
    public static void main(String[] args) throws Exception {
        WrappedSource source = new WrappedSource(source(args[0])) {
            @Override
            protected Connection around(Connection connection) {
                return counted(connection, Connection.class);
            }
        };
        JdbcStore.Builder builder = JdbcStore.builder(source).withoutSchemaChanges();
        JdbcStore store =
                args[1].isEmpty() ? builder.build() : builder.schema(args[1]).build();
        store.prepare();
        LeaseKey lease = new LeaseKey(Long.parseLong(args[2]), UUID.fromString(args[3]), Long.parseLong(args[4]));
        left = Integer.parseInt(args[5]);
        commit(store, lease, args[1].isEmpty() ? "dues" : args[1] + ".dues");
    }

    private static DataSource source(String url) throws SQLException {
        if (url.startsWith("jdbc:mariadb:")) {
            return new MariaDbDataSource(url);
        }
        PGSimpleDataSource postgres = new PGSimpleDataSource();
        postgres.setURL(url);
        return postgres;
    }

    /** Ends a run with one row of the application's own. */
    static void commit(JdbcStore store, LeaseKey lease, String table) throws Exception {
        Attempt attempt = Attempt.begun(1, "victim", lease.session(), lease.fence(), Instant.now())
                .ended(Instant.now(), AttemptEnd.SUCCEEDED, Optional.empty());
        store.guarded(
                lease,
                Duration.ofSeconds(20),
                connection -> {
                    try (PreparedStatement insert =
                            connection.prepareStatement("insert into " + table + " (run) values (?)")) {
                        insert.setLong(1, lease.run());
                        insert.executeUpdate();
                    }
                },
                () -> new RunEnd(
                        lease,
                        1,
                        Outcome.SUCCEEDED,
                        Optional.empty(),
                        attempt,
                        Optional.empty(),
                        Optional.empty(),
                        true,
                        attempt.startedAt(),
                        false));
    }

    private static <T> T counted(T target, Class<T> type) {
        return type.cast(Proxy.newProxyInstance(
                GuardedVictim.class.getClassLoader(), new Class<?>[] {type}, (proxy, method, args) -> {
                    if (STEPS.contains(method.getName()) && --left == 0) {
                        Runtime.getRuntime().halt(CUT_OFF);
                    }
                    try {
                        Object result = method.invoke(target, args);
                        if (result instanceof PreparedStatement statement) {
                            return counted(statement, PreparedStatement.class);
                        }
                        return result instanceof Statement statement ? counted(statement, Statement.class) : result;
                    } catch (InvocationTargetException e) {
                        throw e.getCause() instanceof SQLException known ? known : e;
                    }
                }));
    }
}
