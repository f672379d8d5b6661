package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.StoreException;
import dev.brume.history.History;
import dev.brume.history.RunFilter;
import dev.brume.jdbc.JdbcStore;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Proxy;
import java.sql.Connection;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.AtomicReference;
import java.util.function.UnaryOperator;
import javax.sql.DataSource;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** Pools as applications set them up, and connections that fail at their first word. */
class PoolsTest {
    private final String schema = Databases.freshName();

    private static HikariDataSource notCommitting(DataSource source) {
        HikariConfig config = new HikariConfig();
        config.setDataSource(source);
        config.setAutoCommit(false);
        config.setMaximumPoolSize(6);
        return new HikariDataSource(config);
    }

    private JdbcStore store(DataSource source) {
        JdbcStore store = JdbcStore.builder(source).schema(schema).build();
        store.prepare();
        return store;
    }

    @Test
    void aSleepingInstanceIsWokenOnAPoolThatDoesNotCommitByItself() throws Exception {
        BlockingQueue<Event> begun = new LinkedBlockingQueue<>();
        try (HikariDataSource plain = Databases.postgres();
                HikariDataSource pool = notCommitting(plain);
                Brume sleeper = Brume.on(store(pool))
                        .instance("sleeper")
                        .lease(Duration.ofMinutes(5))
                        .poll(Duration.ofMinutes(1))
                        .engineListener(event -> {
                            if (event.kind() == Event.Kind.STARTED) {
                                begun.add(event);
                            }
                        })
                        .build();
                Brume caller = Brume.on(store(pool)).instance("caller").build()) {
            sleeper.handler("tides", run -> {});
            sleeper.define(Job.named("tides").handler("tides").build());
            sleeper.start();
            for (int i = 0; i < 3; i++) {
                caller.orders("ines", "high water").runNow(JobName.parse("tides"));
                assertThat(begun.poll(25, TimeUnit.SECONDS))
                        .as("well before it would have looked by itself")
                        .isNotNull();
            }
        }
    }

    /** Hands out connections that refuse to begin a transaction, and counts those that are not given back, and what is rolled back. */
    private static final class Refusing extends WrappedSource {
        private final AtomicInteger out = new AtomicInteger();
        private final AtomicInteger rolledBack = new AtomicInteger();
        private volatile boolean refuses;

        Refusing(DataSource source) {
            super(source);
        }

        @Override
        protected Connection around(Connection connection) {
            out.incrementAndGet();
            return (Connection) Proxy.newProxyInstance(
                    Refusing.class.getClassLoader(), new Class<?>[] {Connection.class}, (proxy, method, args) -> {
                        boolean begins = method.getName().equals("setAutoCommit")
                                || method.getName().equals("setTransactionIsolation");
                        if (begins && refuses) {
                            throw new SQLException("the connection died", "08006");
                        }
                        if (method.getName().equals("close")) {
                            out.decrementAndGet();
                        }
                        if (method.getName().equals("rollback")) {
                            rolledBack.incrementAndGet();
                        }
                        try {
                            return method.invoke(connection, args);
                        } catch (InvocationTargetException e) {
                            throw e.getCause();
                        }
                    });
        }
    }

    private static UnaryOperator<DataSource> into(AtomicReference<Refusing> source) {
        return pool -> {
            source.set(new Refusing(pool));
            return source.get();
        };
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void aConnectionIsGivenBackWhereNoTransactionCanBegin(Db db) throws Exception {
        AtomicReference<Refusing> source = new AtomicReference<>();
        try (Db.Fresh fresh = db.fresh(into(source))) {
            int before = source.get().out.get();
            source.get().refuses = true;
            for (int i = 0; i < 20; i++) {
                assertThatThrownBy(() -> fresh.store().transact(tx -> tx.now())).isInstanceOf(StoreException.class);
            }
            assertThat(source.get().out.get()).isEqualTo(before);
            source.get().refuses = false;
            Instant now = fresh.store().transact(tx -> tx.now());
            assertThat(now).isNotNull();
        }
    }

    /** H2 forgets at a rollback all statements of the connection, so that each look would have them parsed anew. */
    @ParameterizedTest
    @EnumSource(Db.class)
    void whatIsReadFromOneSnapshotIsNotRolledBack(Db db) throws Exception {
        AtomicReference<Refusing> source = new AtomicReference<>();
        try (Db.Fresh fresh = db.fresh(into(source))) {
            History history = fresh.store().history();
            int before = source.get().rolledBack.get();

            assertThat(history.past(history.now())).isNotNull();
            assertThat(history.runs(RunFilter.newest(5).withOutcome(Outcome.FAILED)))
                    .isEmpty();
            assertThat(source.get().rolledBack.get()).isEqualTo(before);
        }
    }
}
