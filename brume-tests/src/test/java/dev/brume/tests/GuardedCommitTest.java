package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.GuardedWork;
import dev.brume.Handler;
import dev.brume.IfFailed;
import dev.brume.Job;
import dev.brume.LeaseLostException;
import dev.brume.OneOff;
import dev.brume.Outcome;
import dev.brume.OutcomeUnknownException;
import dev.brume.OwnTransaction;
import dev.brume.Run;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.spi.Store;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicReference;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** The run's end and what its work writes are one commit, whatever happens around it. */
class GuardedCommitTest {
    private static final long SECONDS = 30;

    /** One instance, one job, one table of the application's own. */
    private static final class Office implements AutoCloseable {
        private final AtomicReference<TroubledSource> source = new AtomicReference<>();
        private final BlockingQueue<Event> events = new LinkedBlockingQueue<>();
        private final BlockingQueue<Throwable> thrown = new LinkedBlockingQueue<>();
        private final Db.Fresh fresh;
        private final Brume brume;

        Office(Db db, Handler handler) throws SQLException {
            fresh = db.fresh(pool -> {
                source.set(new TroubledSource(pool));
                return source.get();
            });
            fresh.sql("create table " + fresh.table("dues") + " (run bigint not null)");
            brume = Brume.on(fresh.store())
                    .takesPrograms()
                    .instance("office")
                    .lease(Duration.ofSeconds(10))
                    .poll(Duration.ofMillis(100))
                    .engineListener(events::add)
                    .build();
            brume.handler("dues", run -> {
                try {
                    handler.run(run);
                } catch (Throwable e) {
                    thrown.add(e);
                    throw e;
                }
            });
        }

        void start(Job.Builder job) {
            brume.define(job.handler("dues").build());
            brume.oneOffs().add(OneOff.of(job.name(), "once").at(Instant.now().minusSeconds(1)));
            brume.start();
        }

        void write(Connection connection, Run run) throws SQLException {
            try (Statement statement = connection.createStatement()) {
                statement.execute("insert into " + fresh.table("dues") + " values (" + run.id() + ")");
            }
        }

        long dues() throws SQLException {
            return fresh.number("select count(*) from " + fresh.table("dues"));
        }

        RunView ended() {
            Store store = fresh.store();
            Instant limit = store.history().now().plusSeconds(SECONDS);
            while (store.history().now().isBefore(limit)) {
                List<RunView> runs = store.history().runs(RunFilter.newest(10));
                if (runs.size() == 1 && runs.get(0).outcome().isPresent()) {
                    return runs.get(0);
                }
            }
            throw new AssertionError("waited in vain: " + store.history().runs(RunFilter.newest(10)));
        }

        @Override
        public void close() {
            brume.close();
            fresh.close();
        }
    }

    private static Job.Builder job() {
        return Job.named("dues").ifFailed(IfFailed.attempts(3, Duration.ofMillis(100)));
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void othersGoOnWritingWhileTheWorkDoes(Db db) throws Exception {
        AtomicReference<Office> office = new AtomicReference<>();
        try (Office open = new Office(db, run -> {
            run.commit(connection -> {
                office.get().write(connection, run);
                office.get().brume.define(Job.named("tides").program("true").build());
            });
        })) {
            office.set(open);
            open.start(job());

            assertThat(open.ended().outcome()).contains(Outcome.SUCCEEDED);
            assertThat(open.dues()).isEqualTo(1);
            assertThat(open.thrown).isEmpty();
        }
    }

    /** A framework's transaction: what it does at the commit is told by how often it was asked. */
    private static final class Framework implements OwnTransaction {
        private final AtomicReference<Office> office;
        private int asked;

        Framework(AtomicReference<Office> office) {
            this.office = office;
        }

        @Override
        public void carryOut(Duration limit, GuardedWork work) throws Exception {
            asked++;
            try (Connection connection = office.get().fresh.connection()) {
                connection.setAutoCommit(asked == 1);
                try {
                    work.on(connection);
                } catch (Exception e) {
                    if (!connection.getAutoCommit()) {
                        connection.rollback();
                    }
                    throw e;
                }
                if (asked == 2) {
                    connection.rollback();
                    throw new SQLException("a deferred constraint is violated");
                }
                connection.commit();
                if (asked == 3) {
                    throw new SQLException("the answer was lost");
                }
            }
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void theTransactionMayBeTheApplicationsOwn(Db db) throws Exception {
        AtomicReference<Office> office = new AtomicReference<>();
        Framework framework = new Framework(office);
        try (Office open = new Office(
                db, run -> run.commit(framework, connection -> office.get().write(connection, run)))) {
            office.set(open);
            open.start(job());

            RunView run = open.ended();
            assertThat(run.outcome())
                    .as("the answer of its commit was lost, and it was asked")
                    .contains(Outcome.SUCCEEDED);
            assertThat(run.attempts()).hasSize(3);
            assertThat(run.attempts().get(0).error().orElseThrow()).contains("auto-commit is on");
            assertThat(run.attempts().get(1).error().orElseThrow())
                    .contains("was not committed, and nothing was written", "a deferred constraint is violated");
            assertThat(open.dues()).isEqualTo(1);
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void whatTheWorkWritesAndTheEndAreOneCommit(Db db) throws Exception {
        AtomicReference<Office> office = new AtomicReference<>();
        try (Office open = new Office(db, run -> {
            run.print("booked");
            run.result("1 line");
            run.commit(connection -> office.get().write(connection, run));
        })) {
            office.set(open);
            open.start(job());

            RunView run = open.ended();
            assertThat(run.outcome()).contains(Outcome.SUCCEEDED);
            assertThat(run.result()).contains("1 line");
            assertThat(open.fresh
                            .store()
                            .history()
                            .run(run.id())
                            .orElseThrow()
                            .outputs()
                            .get(1)
                            .text())
                    .isEqualTo("booked\n");
            assertThat(open.dues()).isEqualTo(1);
            await(open, Event.Kind.SUCCEEDED);
        }
    }

    private static void await(Office office, Event.Kind kind) throws InterruptedException {
        for (Event event = office.events.poll(SECONDS, TimeUnit.SECONDS);
                event.kind() != kind;
                event = office.events.poll(SECONDS, TimeUnit.SECONDS)) {
            assertThat(event).isNotNull();
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void whatThrowsIsRolledBackAndTriedAgain(Db db) throws Exception {
        AtomicReference<Office> office = new AtomicReference<>();
        try (Office open = new Office(
                db,
                run -> run.commit(connection -> {
                    office.get().write(connection, run);
                    if (run.attempt() == 1) {
                        throw new IllegalStateException("the till was closed");
                    }
                }))) {
            office.set(open);
            open.start(job());

            RunView run = open.ended();
            assertThat(run.attempts())
                    .extracting(Attempt::end)
                    .containsExactly(Optional.of(AttemptEnd.FAILED), Optional.of(AttemptEnd.SUCCEEDED));
            assertThat(open.dues()).isEqualTo(1);
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void aLostAnswerToACommitThatGotThroughIsNoError(Db db) throws Exception {
        AtomicReference<Office> office = new AtomicReference<>();
        try (Office open = new Office(
                db,
                run -> run.commit(connection -> {
                    office.get().write(connection, run);
                    office.get().source.get().next(TroubledSource.Fate.ANSWER_LOST);
                }))) {
            office.set(open);
            open.start(job());

            RunView run = open.ended();
            assertThat(run.attempts()).hasSize(1);
            assertThat(run.outcome()).contains(Outcome.SUCCEEDED);
            assertThat(open.dues()).isEqualTo(1);
            await(open, Event.Kind.SUCCEEDED);
            assertThat(open.thrown).isEmpty();
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void aCommitThatWasLostIsFoundOutAndTriedAgain(Db db) throws Exception {
        AtomicReference<Office> office = new AtomicReference<>();
        try (Office open = new Office(
                db,
                run -> run.commit(connection -> {
                    office.get().write(connection, run);
                    if (run.attempt() == 1) {
                        office.get().source.get().next(TroubledSource.Fate.LOST);
                    }
                }))) {
            office.set(open);
            open.start(job());

            RunView run = open.ended();
            assertThat(run.attempts()).hasSize(2);
            assertThat(run.attempts().get(0).error().orElseThrow()).contains("nothing was written");
            assertThat(open.dues()).isEqualTo(1);
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void onlyWhenNobodyCanBeAskedIsTheOutcomeUnknownAndTheLedgerTellsLater(Db db) throws Exception {
        AtomicReference<Office> office = new AtomicReference<>();
        try (Office open = new Office(db, run -> {
            TroubledSource source = office.get().source.get();
            try {
                run.commit(connection -> {
                    office.get().write(connection, run);
                    source.next(TroubledSource.Fate.CUT_OFF);
                });
            } finally {
                source.reconnect();
            }
        })) {
            office.set(open);
            open.start(job());

            assertThat(open.thrown.poll(SECONDS, TimeUnit.SECONDS)).isInstanceOf(OutcomeUnknownException.class);
            RunView run = open.ended();
            assertThat(run.outcome()).as("it had got through").contains(Outcome.SUCCEEDED);
            assertThat(open.dues()).isEqualTo(1);
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void aRunThatWentToAnotherWritesNothing(Db db) throws Exception {
        AtomicReference<Office> office = new AtomicReference<>();
        try (Office open = new Office(db, run -> {
            if (run.attempt() == 1) {
                // As if the lease had lapsed and the run had been taken over.
                office.get()
                        .fresh
                        .sql("update " + office.get().fresh.table("brume_run") + " set fence = fence + 1 where id = "
                                + run.id());
            }
            run.commit(connection -> office.get().write(connection, run));
        })) {
            office.set(open);
            open.start(job());

            assertThat(open.thrown.poll(SECONDS, TimeUnit.SECONDS)).isInstanceOf(LeaseLostException.class);
            assertThat(open.dues()).isZero();
            await(open, Event.Kind.REFUSED);
            assertThat(open.ended().outcome())
                    .as("given back by reconciling, then run")
                    .contains(Outcome.SUCCEEDED);
            assertThat(open.dues()).isEqualTo(1);
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void aRunThatWentToAnotherWritesNothingInTheApplicationsOwnTransactionEither(Db db) throws Exception {
        AtomicReference<Office> office = new AtomicReference<>();
        OwnTransaction own = (limit, work) -> {
            try (Connection connection = office.get().fresh.connection()) {
                connection.setAutoCommit(false);
                try {
                    work.on(connection);
                    connection.commit();
                } catch (Exception e) {
                    connection.rollback();
                    throw e;
                }
            }
        };
        try (Office open = new Office(db, run -> {
            if (run.attempt() == 1) {
                office.get()
                        .fresh
                        .sql("update " + office.get().fresh.table("brume_run") + " set fence = fence + 1 where id = "
                                + run.id());
            }
            run.commit(own, connection -> office.get().write(connection, run));
        })) {
            office.set(open);
            open.start(job());

            assertThat(open.thrown.poll(SECONDS, TimeUnit.SECONDS)).isInstanceOf(LeaseLostException.class);
            assertThat(open.dues()).isZero();
            assertThat(open.ended().outcome()).contains(Outcome.SUCCEEDED);
            assertThat(open.dues()).isEqualTo(1);
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void theTransactionCannotBeEndedByTheWork(Db db) throws Exception {
        AtomicReference<Office> office = new AtomicReference<>();
        try (Office open = new Office(
                db,
                run -> run.commit(connection -> {
                    office.get().write(connection, run);
                    connection.commit();
                }))) {
            office.set(open);
            open.start(Job.named("dues"));

            assertThat(open.ended().attempts().get(0).error().orElseThrow())
                    .contains("commit() is not yours to call in a guarded transaction");
            assertThat(open.dues()).isZero();
        }
    }
}
