package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.DefinitionSet;
import dev.brume.Event;
import dev.brume.GateKey;
import dev.brume.Handler;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.StoreException;
import dev.brume.history.Gate;
import dev.brume.history.JobRow;
import dev.brume.history.Needs;
import dev.brume.history.RunFilter;
import dev.brume.history.RunRow;
import dev.brume.history.RunView;
import dev.brume.history.SessionRow;
import dev.brume.spi.Ability;
import dev.brume.spi.Claim;
import dev.brume.spi.NewJob;
import dev.brume.spi.Numbers;
import dev.brume.spi.Store;
import java.sql.Connection;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.CyclicBarrier;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.Function;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.EnumSource;

/** What bites when several transactions meet, one scenario each, on every database. */
class ProtocolScenariosTest {
    private static final JobName BRIDGE = JobName.parse("bridge");

    private static void await(CountDownLatch latch) {
        try {
            assertThat(latch.await(20, TimeUnit.SECONDS)).isTrue();
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    private static Job.Builder every(String name, int seconds) {
        return Job.named(name).every(Duration.ofSeconds(seconds));
    }

    private static List<RunView> runs(Store store) {
        return store.history().runs(RunFilter.newest(100_000));
    }

    private static long add(Store store, String name) {
        Job job = every(name, 1).program("true").build();
        Instant past = store.history().now().minusSeconds(5);
        return store.transact(tx -> tx.addJobs(List.of(NewJob.plain(job, "test", past, Optional.of(past)))))
                .get(0);
    }

    private static RunRow run(Store store, long job, Instant planned, RunState state, List<GateKey> gates) {
        Numbers numbers = store.transact(tx -> tx.take(1));
        RunRow.Owed owed = RunRow.Owed.scheduled(job, planned, ZoneOffset.UTC);
        return RunRow.planned(numbers.ids().get(0), owed)
                .needing(Needs.NOTHING, gates)
                .moved(state, planned, Optional.empty(), List.of(), 0);
    }

    // Gates.

    /** The planner decides to hold while the last run inside ends: whoever comes second must see the other. */
    @ParameterizedTest
    @EnumSource(Db.class)
    void aRunHeldWhileTheHolderEndsIsNotForgotten(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh()) {
            Store store = fresh.store();
            AtomicInteger inside = new AtomicInteger();
            AtomicInteger most = new AtomicInteger();
            CountDownLatch enough = new CountDownLatch(40);
            List<Brume> instances = instances(store, 2, run -> {
                most.accumulateAndGet(inside.incrementAndGet(), Math::max);
                inside.decrementAndGet();
                enough.countDown();
            });
            List<Job> jobs = new ArrayList<>();
            for (int i = 0; i < 12; i++) {
                jobs.add(every("pilot-" + i, 1)
                        .handler("work")
                        .limit("pilots")
                        .ifBusy(IfBusy.waiting(20))
                        .build());
            }
            instances.get(0).define(DefinitionSet.of("test", jobs).withLimits(Map.of("pilots", 1)));
            instances.forEach(Brume::start);
            assertThat(enough.await(40, TimeUnit.SECONDS))
                    .as("nobody waits for ever")
                    .isTrue();
            for (Brume brume : instances) {
                brume.stop(Duration.ofSeconds(10));
            }

            assertThat(most.get()).as("inside the limit at once").isEqualTo(1);
            GateKey pilots = new GateKey(GateKey.Kind.LIMIT, "pilots");
            Map<GateKey, Integer> truth = store.transact(tx -> tx.gates().count(List.of(pilots)));
            Map<GateKey, Gate> record = store.transact(tx -> tx.gates().lock(List.of(pilots)));
            assertThat(record.get(pilots).used()).isEqualTo(truth.getOrDefault(pilots, 0));
        }
    }

    private static List<Brume> instances(Store store, int count, Handler handler) {
        List<Brume> instances = new ArrayList<>();
        for (int i = 0; i < count; i++) {
            Brume brume = Brume.on(store)
                    .takesPrograms()
                    .instance("quay-" + i)
                    .workers(4)
                    .poll(Duration.ofMillis(100))
                    .build();
            brume.handler("work", handler);
            instances.add(brume);
        }
        return instances;
    }

    /** Two who read the same count would both go in; the gate's row is locked before it is read. */
    @ParameterizedTest
    @EnumSource(Db.class)
    void twoPlannersNeverCountTheSameSnapshotOfALimit(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh()) {
            Store store = fresh.store();
            GateKey crane = new GateKey(GateKey.Kind.EXCLUSIVE, "crane");
            store.transact(tx -> {
                tx.gates().add(Map.of(crane, 10));
                return null;
            });
            CyclicBarrier barrier = new CyclicBarrier(2);
            List<CompletableFuture<Void>> planners = new ArrayList<>();
            for (int planner = 0; planner < 2; planner++) {
                planners.add(Threads.run(() -> {
                    try {
                        for (int i = 0; i < 20; i++) {
                            barrier.await(20, TimeUnit.SECONDS);
                            takeOne(store, crane);
                        }
                    } catch (Exception e) {
                        throw new IllegalStateException(e);
                    }
                }));
            }
            planners.forEach(CompletableFuture::join);

            Map<GateKey, Gate> gates = store.transact(tx -> tx.gates().lock(List.of(crane)));
            assertThat(gates.get(crane).used()).isEqualTo(40);
        }
    }

    private static void takeOne(Store store, GateKey key) {
        while (true) {
            try {
                store.transact(tx -> {
                    Gate gate = tx.gates().lock(List.of(key)).get(key);
                    tx.gates().write(List.of(gate.used(gate.used() + 1)));
                    return null;
                });
                return;
            } catch (StoreException e) {
                assertThat(e.trouble()).isEqualTo(StoreException.Trouble.CONFLICT);
            }
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void tenThousandHeldRunsDoNotClogTheClaim(Db db) {
        try (Db.Fresh fresh = db.fresh()) {
            Store store = fresh.store();
            long job = add(store, "tides");
            Instant begin = store.history().now().minusSeconds(20_000).truncatedTo(ChronoUnit.SECONDS);
            Numbers numbers = store.transact(tx -> tx.take(10_000));
            List<RunRow> held = new ArrayList<>();
            RunRow pattern = run(store, job, begin, RunState.WAITING, List.of());
            for (int i = 0; i < 10_000; i++) {
                RunRow.Owed owed = pattern.owed();
                RunRow.Owed later = RunRow.Owed.scheduled(job, begin.plusSeconds(i), ZoneOffset.UTC);
                held.add(RunRow.planned(numbers.ids().get(i), later)
                        .moved(RunState.WAITING, begin, Optional.empty(), List.of(), 0));
            }
            RunRow ready = run(store, job, begin.plusSeconds(15_000), RunState.PLANNED, List.of());
            store.transact(tx -> {
                tx.addRuns(held);
                tx.addRuns(List.of(ready));
                return null;
            });

            List<RunRow> claimed = store.transact(tx -> tx.claim(new Claim(
                    UUID.randomUUID(), 0, "main", Ability.NONE, Optional.empty(), 100, /* oldestFirst= */ false)));
            assertThat(claimed).extracting(RunRow::id).containsExactly(ready.id());
        }
    }

    // One-offs.

    @ParameterizedTest
    @EnumSource(Db.class)
    void aOneOffWhoseCallerCommitsLateRunsAtOnce(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh()) {
            BlockingQueue<Instant> ran = new LinkedBlockingQueue<>();
            Brume brume =
                    instances(fresh.store(), 1, run -> ran.add(run.planned())).get(0);
            brume.define(Job.named(BRIDGE).handler("work").build());
            brume.start();
            Instant due = fresh.store().history().now().plusMillis(300);
            try (Connection caller = fresh.connection()) {
                caller.setAutoCommit(false);
                assertThat(brume.oneOffs()
                                .within(caller)
                                .add(OneOff.of(BRIDGE, "closure").at(due))
                                .changed())
                        .isTrue();
                Instant late = due.plusMillis(2500);
                while (fresh.store().history().now().isBefore(late)) {
                    assertThat(ran).isEmpty();
                }
                caller.commit();
            }

            assertThat(ran.poll(20, TimeUnit.SECONDS)).isEqualTo(due.truncatedTo(ChronoUnit.MICROS));
            brume.close();
        }
    }

    @ParameterizedTest
    @CsvSource({
        "H2, 2",
        "H2, 4",
        "H2, 8",
        "POSTGRESQL, 2",
        "POSTGRESQL, 4",
        "POSTGRESQL, 8",
        "MARIADB, 2",
        "MARIADB, 4",
        "MARIADB, 8"
    })
    void anOrderInACallersTransactionIsRightAtEveryIsolationAndLocksNoJob(Db db, int isolation) throws Exception {
        try (Db.Fresh fresh = db.fresh()) {
            Brume brume =
                    Brume.on(fresh.store()).takesPrograms().instance("office").build();
            brume.define(every("bridge", 60).program("true").build());
            Instant at = fresh.store().history().now().plusSeconds(600);
            try (Connection caller = fresh.connection()) {
                caller.setTransactionIsolation(isolation);
                caller.setAutoCommit(false);
                assertThat(brume.oneOffs()
                                .within(caller)
                                .add(OneOff.of(BRIDGE, "kept").at(at))
                                .changed())
                        .isTrue();
                assertThat(brume.oneOffs()
                                .within(caller)
                                .add(OneOff.of(BRIDGE, "kept").at(at))
                                .changed())
                        .as("the same again")
                        .isFalse();
                Map<JobName, JobRow> free = fresh.store().transact(tx -> tx.lockJobs(List.of(BRIDGE)));
                assertThat(free).as("the job is not locked meanwhile").containsKey(BRIDGE);
                caller.commit();
                assertThat(brume.oneOffs()
                                .within(caller)
                                .add(OneOff.of(BRIDGE, "dropped").at(at))
                                .changed())
                        .isTrue();
                caller.rollback();
                assertThat(brume.oneOffs()
                                .within(caller)
                                .add(OneOff.of(BRIDGE, "kept").at(at))
                                .changed())
                        .as("committed before")
                        .isFalse();
                assertThat(brume.oneOffs()
                                .within(caller)
                                .add(OneOff.of(BRIDGE, "dropped").at(at))
                                .changed())
                        .as("rolled back before")
                        .isTrue();
                caller.rollback();
                assertThat(caller.getTransactionIsolation()).isEqualTo(isolation);
                caller.setAutoCommit(true);
            }

            assertThat(fresh.number("select count(*) from " + fresh.table("brume_one_off")))
                    .isEqualTo(1);
            assertThat(fresh.number(
                            "select count(*) from " + fresh.table("brume_change") + " where kind = 'ONE_OFF_ADDED'"))
                    .as("the change log goes with it")
                    .isEqualTo(1);
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void inTenMinutesCountsFromTheCallNotFromTheTransactionsBegin(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh()) {
            Brume brume =
                    Brume.on(fresh.store()).takesPrograms().instance("office").build();
            brume.define(Job.named(BRIDGE).program("true").build());
            Instant called;
            try (Connection caller = fresh.connection()) {
                caller.setAutoCommit(false);
                try (var statement = caller.createStatement()) {
                    statement.executeQuery("select count(*) from " + fresh.table("brume_job"));
                }
                Instant begun = fresh.store().history().now();
                while (fresh.store().history().now().isBefore(begun.plusMillis(1500))) {
                    // The transaction grows older.
                }
                called = fresh.store().history().now();
                brume.oneOffs().within(caller).add(OneOff.of(BRIDGE, "later").in(Duration.ofMinutes(10)));
                caller.commit();
                caller.setAutoCommit(true);
            }

            var due = fresh.store()
                    .transact(tx -> tx.oneOffs().due(Optional.empty(), called.plusSeconds(3600), 10))
                    .get(0);
            assertThat(due.dueAt()).isBetween(called.plusSeconds(600), called.plusSeconds(605));
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void keysCompareByTheirBytes(Db db) {
        try (Db.Fresh fresh = db.fresh()) {
            Brume brume =
                    Brume.on(fresh.store()).takesPrograms().instance("office").build();
            brume.define(Job.named(BRIDGE).program("true").build());
            Instant at = fresh.store().history().now().plusSeconds(600);

            for (String key : List.of("a", "A", "a ", "á", "ä", "ß", "ss", "潮")) {
                assertThat(brume.oneOffs().add(OneOff.of(BRIDGE, key).at(at)).changed())
                        .as("'" + key + "'")
                        .isTrue();
            }
            brume.define(Job.named("Bridge").program("false").build());
            assertThat(fresh.store().history().jobs()).hasSize(2);
        }
    }

    // Clocks, locks, victims.

    @ParameterizedTest
    @EnumSource(Db.class)
    void theClockMovesOnWithinATransaction(Db db) {
        try (Db.Fresh fresh = db.fresh()) {
            fresh.store().transact(tx -> {
                Instant before = tx.now();
                tx.lockDefinitions();
                Instant outside = fresh.store().history().now();
                assertThat(tx.now()).isAfterOrEqualTo(outside);
                assertThat(outside).isAfterOrEqualTo(before);
                return null;
            });
        }
    }

    @ParameterizedTest
    @EnumSource(value = Db.class, names = "H2", mode = EnumSource.Mode.EXCLUDE) // one writes at a time there
    void aDeadlockVictimIsToldApartAndItsStepCanBeRepeated(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh()) {
            Store store = fresh.store();
            long first = add(store, "first");
            long second = add(store, "second");
            CyclicBarrier both = new CyclicBarrier(2);
            List<StoreException.Trouble> troubles = Collections.synchronizedList(new ArrayList<>());
            List<CompletableFuture<Void>> sides = new ArrayList<>();
            for (List<Long> order : List.of(List.of(first, second), List.of(second, first))) {
                sides.add(Threads.run(() -> lockInOrder(store, order, both, troubles)));
            }
            sides.forEach(CompletableFuture::join);

            assertThat(troubles)
                    .as("one side was the victim")
                    .isNotEmpty()
                    .containsOnly(StoreException.Trouble.CONFLICT);
        }
    }

    private static void lockInOrder(
            Store store, List<Long> order, CyclicBarrier both, List<StoreException.Trouble> troubles) {
        boolean met = false;
        while (true) {
            boolean first = !met;
            met = true;
            try {
                store.transact(tx -> {
                    tx.lockJobsById(List.of(order.get(0)));
                    if (first) {
                        meet(both);
                    }
                    return tx.lockJobsById(List.of(order.get(1)));
                });
                return;
            } catch (StoreException e) {
                troubles.add(e.trouble());
            }
        }
    }

    private static void meet(CyclicBarrier both) {
        try {
            both.await(20, TimeUnit.SECONDS);
        } catch (Exception e) {
            throw new IllegalStateException(e);
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void aJobWhoseRowSomeoneKeepsLockedIsNamed(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh()) {
            Store store = fresh.store();
            add(store, "locked");
            add(store, "free");
            try (Connection someone = fresh.connection()) {
                someone.setAutoCommit(false);
                try (var statement = someone.createStatement()) {
                    statement.executeQuery(
                            "select id from " + fresh.table("brume_job") + " where name = 'locked' for update");
                }
                BlockingQueue<Event> events = new LinkedBlockingQueue<>();
                Brume brume = Brume.on(store)
                        .takesPrograms()
                        .instance("quay-1")
                        .lease(Duration.ofSeconds(2))
                        .poll(Duration.ofMillis(100))
                        .engineListener(events::add)
                        .build();
                brume.start();
                Event told = events.poll(20, TimeUnit.SECONDS);
                while (told != null && !told.text().contains("locked by someone else's transaction")) {
                    told = events.poll(20, TimeUnit.SECONDS);
                }
                assertThat(told).isNotNull();
                assertThat(told.job()).contains(JobName.parse("locked"));
                someone.rollback();
                someone.setAutoCommit(true);
                brume.close();
            }
        }
    }

    // Unknown outcomes.

    @ParameterizedTest
    @EnumSource(Db.class)
    void aLeaseOnWhichNobodyWorksIsGivenBackWithinALease(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh()) {
            Store store = fresh.store();
            CountDownLatch ran = new CountDownLatch(1);
            Brume brume = Brume.on(store)
                    .takesPrograms()
                    .instance("quay-1")
                    .lease(Duration.ofSeconds(2))
                    .poll(Duration.ofMillis(100))
                    .build();
            brume.handler("work", run -> ran.countDown());
            brume.define(Job.named(BRIDGE).handler("work").build());
            brume.start();
            SessionRow session = until(
                            store,
                            open -> open.history().sessions(false).stream().findFirst())
                    .row();
            // As if the answer to a planning commit had been lost.
            long job = store.history().job(BRIDGE).orElseThrow().row().id();
            RunRow lost = run(store, job, store.history().now(), RunState.PLANNED, List.of());
            long fence = store.transact(tx -> tx.take(1)).fences().get(0);
            store.transact(tx -> {
                tx.addRuns(List.of(lost.moved(
                        RunState.RUNNING,
                        lost.readyAt(),
                        Optional.of(new RunRow.Lease(session.id(), fence, tx.now())),
                        List.of(),
                        1)));
                return null;
            });

            assertThat(ran.await(20, TimeUnit.SECONDS)).isTrue();
            brume.close();
            assertThat(runs(store))
                    .singleElement()
                    .satisfies(run -> assertThat(run.outcome()).contains(Outcome.SUCCEEDED));
        }
    }

    private static <T> T until(Store store, Function<Store, Optional<T>> look) {
        Instant limit = store.history().now().plusSeconds(20);
        while (store.history().now().isBefore(limit)) {
            Optional<T> found = look.apply(store);
            if (found.isPresent()) {
                return found.get();
            }
        }
        throw new AssertionError("waited in vain");
    }
}
