package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.DefinitionSet;
import dev.brume.Job;
import dev.brume.StopReason;
import dev.brume.internal.define.Registrar;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.duty.Settings;
import dev.brume.internal.order.Edit;
import dev.brume.internal.order.Orderer;
import dev.brume.internal.round.RoundDuty;
import dev.brume.internal.run.FinishDuty;
import dev.brume.internal.run.SettleDuty;
import dev.brume.internal.session.RenewDuty;
import dev.brume.jdbc.JdbcStore;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.TimeSource;
import dev.brume.spi.WorkerPool;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Proxy;
import java.sql.Connection;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import javax.sql.DataSource;
import org.junit.jupiter.api.Test;

/** What an instance with nothing to do asks of the database, counted statement by statement. */
class IdleTest {
    private static final WorkerPool IDLE = new WorkerPool() {
        @Override
        public int free(String lane) {
            return 4;
        }

        @Override
        public void start(LeasedRun run) {
            throw new AssertionError("nothing is due, and yet " + run + " was started");
        }

        @Override
        public void stop(LeasedRun run, StopReason why) {
            throw new AssertionError("nothing runs");
        }
    };

    private final List<String> statements = Collections.synchronizedList(new ArrayList<>());

    /** A data source whose connections note every statement they are given. */
    private DataSource noting(DataSource source) {
        return proxy(
                DataSource.class,
                source,
                (name, args, result) -> result instanceof Connection connection ? noting(connection) : result);
    }

    private Connection noting(Connection connection) {
        return proxy(Connection.class, connection, (name, args, result) -> {
            if (name.equals("prepareStatement")) {
                statements.add((String) args[0]);
            }
            return result instanceof Statement statement && name.equals("createStatement") ? noting(statement) : result;
        });
    }

    private Statement noting(Statement statement) {
        return proxy(Statement.class, statement, (name, args, result) -> {
            if (name.equals("execute")) {
                statements.add((String) args[0]);
            }
            return result;
        });
    }

    private interface After {
        Object call(String method, Object[] args, Object result);
    }

    private static <T> T proxy(Class<T> type, T target, After after) {
        return type.cast(Proxy.newProxyInstance(
                IdleTest.class.getClassLoader(), new Class<?>[] {type}, (proxy, method, args) -> {
                    try {
                        return after.call(method.getName(), args, method.invoke(target, args));
                    } catch (InvocationTargetException e) {
                        throw e.getCause();
                    }
                }));
    }

    private void countOn(HikariDataSource pool, JdbcStore.Builder builder) {
        JdbcStore store = builder.build();
        store.prepare();
        Settings settings = new Settings(
                "quay-1", "host", 1, Map.of("main", 4), Duration.ofSeconds(15), Duration.ofSeconds(1), 100);
        Instance instance = new Instance(settings, store, TimeSource.system(), event -> {});
        instance.workers(IDLE);
        RenewDuty keep = new RenewDuty(instance, UUID::randomUUID);
        RoundDuty round = new RoundDuty(instance);
        SettleDuty settle = new SettleDuty(instance);
        FinishDuty finish = new FinishDuty(instance, () -> {});
        keep.step();
        new Registrar(instance)
                .define(
                        DefinitionSet.of(
                                "test",
                                List.of(Job.named("far")
                                        .cron("0 0 29 2 *", "UTC")
                                        .program("true")
                                        .build())),
                        Edit.by(Orderer.at(instance, "tester", "")));
        round.step();

        statements.clear();
        assertThat(round.step()).isEqualTo(Duration.ofSeconds(1));
        assertThat(statements).as("a round").hasSize(1);
        statements.clear();
        finish.step();
        settle.step();
        assertThat(statements).as("nothing to report or settle").isEmpty();
        statements.clear();
        assertThat(keep.step()).isEqualTo(Duration.ofSeconds(5));
        assertThat(statements).as("a renewal, every third of the lease").hasSizeLessThanOrEqualTo(8);
        pool.close();
    }

    @Test
    void aSecondOfIdlenessIsOneStatementOnPostgres() {
        HikariDataSource pool = Databases.postgres();
        countOn(pool, JdbcStore.builder(noting(pool)).schema(Databases.freshName()));
    }

    /** Nothing there is set for one transaction alone: two more statements give each of the two transactions its limits and take them away. */
    @Test
    void aSecondOfIdlenessIsOneStatementOnMariaDb() {
        HikariDataSource pool = Databases.mariadb(Databases.freshName());
        countOn(pool, JdbcStore.builder(noting(pool)));
    }

    @Test
    void aSecondOfIdlenessIsOneStatementOnH2() {
        HikariDataSource pool = Databases.h2();
        countOn(pool, JdbcStore.builder(noting(pool)));
    }
}
