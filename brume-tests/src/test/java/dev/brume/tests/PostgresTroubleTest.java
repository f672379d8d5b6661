package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.StoreException;
import dev.brume.StoreException.Trouble;
import dev.brume.history.JobRow;
import dev.brume.history.RunFilter;
import dev.brume.jdbc.JdbcStore;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.List;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.postgresql.ds.PGSimpleDataSource;

/** A real PostgreSQL that misbehaves: connections killed, rows held for too long, no right to write. */
class PostgresTroubleTest {
    private final String schema = Databases.freshName();
    private HikariDataSource pool;
    private JdbcStore store;

    @BeforeEach
    void open() {
        pool = Databases.postgres();
        store = JdbcStore.builder(pool)
                .schema(schema)
                .limit(Duration.ofMillis(500))
                .build();
        store.prepare();
    }

    @AfterEach
    void close() {
        pool.close();
    }

    private static Job job() {
        return Job.named("tides").every(Duration.ofSeconds(1)).program("true").build();
    }

    private void sql(String text) throws SQLException {
        try (Connection connection = pool.getConnection();
                Statement statement = connection.createStatement()) {
            statement.execute(text);
        }
    }

    private static void has(Throwable thrown, Trouble trouble) {
        assertThat(thrown)
                .isInstanceOfSatisfying(
                        StoreException.class, e -> assertThat(e.trouble()).isEqualTo(trouble));
    }

    @Test
    void aRowHeldByAFrozenTransactionIsGivenUpAfterTheLimitAndTheHolderIsThrownOut() throws Exception {
        // With the usual limit: a busy machine may pause for longer than the short one between two statements.
        JdbcStore calm = JdbcStore.builder(pool).schema(schema).build();
        Brume.on(calm).takesPrograms().instance("definer").build().define(job());
        CountDownLatch locked = new CountDownLatch(1);
        CountDownLatch done = new CountDownLatch(1);
        CompletableFuture<JobRow> frozen = Threads.supply(() -> store.transact(tx -> {
            JobRow row = tx.lockJobs(List.of(job().name())).get(job().name());
            locked.countDown();
            try {
                done.await();
            } catch (InterruptedException e) {
                throw new IllegalStateException(e);
            }
            tx.now();
            return row;
        }));
        locked.await();

        // Either the wait is given up first, or the frozen holder is thrown out by the server and the lock is free.
        try {
            store.transact(tx -> tx.lockJobs(List.of(job().name())));
        } catch (StoreException e) {
            has(e, Trouble.CONFLICT);
        }
        JobRow row = lockAtLast();
        assertThat(row.name()).isEqualTo(job().name());
        done.countDown();
        assertThatThrownBy(frozen::join).hasCauseInstanceOf(StoreException.class);
    }

    private JobRow lockAtLast() {
        for (int i = 0; i < 10; i++) {
            try {
                return store.transact(tx -> tx.lockJobs(List.of(job().name()))).get(job().name());
            } catch (StoreException e) {
                has(e, Trouble.CONFLICT);
            }
        }
        throw new AssertionError("the lock was never given up");
    }

    @Test
    void anEngineWhoseConnectionsAreAllKilledGoesOn() throws Exception {
        BlockingQueue<Event> events = new LinkedBlockingQueue<>();
        Brume brume = Brume.on(store)
                .takesPrograms()
                .instance("quay-1")
                .poll(Duration.ofMillis(200))
                .engineListener(events::add)
                .build();
        brume.handler("note", run -> run.print("noted"));
        brume.define(
                Job.named("tides").every(Duration.ofSeconds(1)).handler("note").build());
        brume.start();
        await(events, Event.Kind.SUCCEEDED);
        for (int i = 0; i < 3; i++) {
            sql("select pg_terminate_backend(pid) from pg_stat_activity where pid <> pg_backend_pid()"
                    + " and query like '%" + schema + "%'");
            await(events, Event.Kind.SUCCEEDED);
        }

        assertThat(brume.stop(Duration.ofSeconds(10))).isTrue();
        assertThat(store.history().runs(RunFilter.newest(100)))
                .extracting(run -> run.owed().planned())
                .doesNotHaveDuplicates();
    }

    @Test
    void whatIsOrderedAtShortNoticeRunsWithoutWaitingForThePoll() throws Exception {
        BlockingQueue<Event> events = new LinkedBlockingQueue<>();
        Brume brume = Brume.on(store)
                .takesPrograms()
                .instance("quay-1")
                .poll(Duration.ofMinutes(10))
                .engineListener(events::add)
                .build();
        brume.handler("note", run -> run.print("noted"));
        brume.define(Job.named("closure").handler("note").build());
        brume.start();
        listeners();
        Brume office = Brume.on(store).takesPrograms().instance("office").build();
        office.oneOffs()
                .add(OneOff.of(JobName.parse("closure"), "now")
                        .at(store.history().now()));

        await(events, Event.Kind.SUCCEEDED);
        assertThat(brume.stop(Duration.ofSeconds(10))).isTrue();
    }

    /** Waits until someone listens. */
    private void listeners() throws SQLException {
        String query = "select count(*) from pg_stat_activity where query = 'listen brume_" + schema + "'";
        try (Connection connection = pool.getConnection();
                Statement statement = connection.createStatement()) {
            long listening = 0;
            while (listening == 0) {
                try (var rows = statement.executeQuery(query)) {
                    rows.next();
                    listening = rows.getLong(1);
                }
            }
        }
    }

    private static void await(BlockingQueue<Event> events, Event.Kind kind) throws InterruptedException {
        events.clear();
        for (Event event = events.poll(30, TimeUnit.SECONDS); ; event = events.poll(30, TimeUnit.SECONDS)) {
            assertThat(event).as("an event " + kind + " in time").isNotNull();
            if (event.kind() == kind) {
                return;
            }
        }
    }

    @Test
    void aDatabaseThatMayNotBeWrittenSaysSo() throws Exception {
        sql("create role reader_" + schema);
        sql("grant usage on schema " + schema + " to reader_" + schema);
        sql("grant select on all tables in schema " + schema + " to reader_" + schema);
        PGSimpleDataSource reading = new PGSimpleDataSource();
        reading.setURL(Databases.postgresUrl());
        reading.setOptions("-c role=reader_" + schema);
        JdbcStore mine = JdbcStore.builder(reading)
                .schema(schema)
                .description("the archive")
                .build();

        mine.prepare();
        assertThat(mine.history().jobs()).isEmpty();
        assertThatThrownBy(() -> Brume.on(mine)
                        .takesPrograms()
                        .instance("definer")
                        .build()
                        .define(job()))
                .satisfies(thrown -> has(thrown, Trouble.NOT_WRITABLE))
                .hasMessageContaining("cannot write to the archive")
                .hasMessageContaining("permission denied");
    }

    @Test
    void withoutSchemaChangesMissingTablesAreNamedAndNothingIsCreated() throws Exception {
        String empty = Databases.freshName();
        JdbcStore mine =
                JdbcStore.builder(pool).schema(empty).withoutSchemaChanges().build();

        assertThatThrownBy(mine::prepare)
                .satisfies(thrown -> has(thrown, Trouble.SCHEMA))
                .hasMessageContaining("brume serve");
        try (Connection connection = pool.getConnection();
                var schemas = connection.getMetaData().getSchemas(null, empty)) {
            assertThat(schemas.next()).isFalse();
        }
    }

    @Test
    void theApplicationGetsItsConnectionsBackAsTheyWere() throws Exception {
        try (HikariDataSource one = Databases.postgres()) {
            one.setMaximumPoolSize(1);
            JdbcStore mine = JdbcStore.builder(one).schema(schema).build();
            String before = settings(one);
            mine.transact(tx -> tx.now());
            assertThatThrownBy(() -> mine.transact(tx -> {
                        throw new IllegalStateException("mine");
                    }))
                    .hasMessage("mine");
            assertThat(settings(one)).isEqualTo(before);
        }
    }

    private static String settings(HikariDataSource source) throws SQLException {
        try (Connection connection = source.getConnection();
                Statement statement = connection.createStatement();
                var row = statement.executeQuery("select current_setting('statement_timeout')"
                        + " || current_setting('lock_timeout') || current_setting('enable_seqscan')"
                        + " || current_setting('default_transaction_isolation') || " + connection.getAutoCommit())) {
            row.next();
            return row.getString(1);
        }
    }
}
