package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.Brume;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.OneOffAnswer;
import dev.brume.OneOffAnswer.Kind;
import dev.brume.Outcome;
import dev.brume.RunHandle;
import dev.brume.RunResult;
import dev.brume.RunState;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import java.sql.Connection;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.postgresql.PGConnection;
import org.postgresql.PGNotification;

/** Order keys and exclusion keys of one-offs, and waiting for their ends. */
class OneOffKeysTest {
    private static final JobName REMINDER = JobName.parse("reminder");
    private static final Duration LONG = Duration.ofSeconds(60);

    private final Map<String, CountDownLatch> doors = new ConcurrentHashMap<>();

    private Brume office(Db.Fresh fresh, int workers) {
        Brume brume = Brume.on(fresh.store())
                .instance("office")
                .workers(workers)
                .poll(Duration.ofMillis(200))
                .build();
        brume.define(Job.named(REMINDER).ifBusy(IfBusy.alongside(20)), run -> {
            CountDownLatch door = doors.get(run.payload().orElse(""));
            if (door != null && !door.await(60, TimeUnit.SECONDS)) {
                throw new IllegalStateException("nobody opened");
            }
            run.result("reminded " + run.payload().orElse(""));
        });
        return brume;
    }

    private static OneOff of(String customer, int number) {
        return OneOff.of(REMINDER, customer + "-" + number)
                .at(Instant.EPOCH.plusSeconds(number))
                .payload(customer + number)
                .exclusive(customer);
    }

    private static RunHandle run(OneOffAnswer answer) {
        assertThat(answer.kind()).isEqualTo(Kind.ADDED);
        return answer.run().orElseThrow();
    }

    private static Optional<RunState> state(Brume brume, RunHandle run) {
        return brume.history().run(run.id()).flatMap(RunView::state);
    }

    private static void awaitState(Brume brume, RunHandle run, RunState state) {
        long until = System.nanoTime() + LONG.toNanos();
        while (!state(brume, run).equals(Optional.of(state))) {
            assertThat(System.nanoTime() - until).as(run + " is to be " + state).isNegative();
        }
    }

    @ParameterizedTest
    @EnumSource
    void ofOneKeyOneRunsAtOnceAndHoldsUpNobodyElse(Db db) throws Exception {
        List.of("anna1", "ben1").forEach(run -> doors.put(run, new CountDownLatch(1)));
        try (Db.Fresh fresh = db.fresh();
                Brume brume = office(fresh, 8)) {
            brume.start();
            RunHandle first = run(brume.oneOffs().add(of("anna", 1)));
            awaitState(brume, first, RunState.RUNNING);
            RunHandle second = run(brume.oneOffs().add(of("anna", 2)));
            RunHandle third = run(brume.oneOffs().add(of("anna", 3)));
            awaitState(brume, second, RunState.WAITING);
            awaitState(brume, third, RunState.WAITING);
            RunHandle other = run(brume.oneOffs().add(of("ben", 1)));
            awaitState(brume, other, RunState.RUNNING);
            RunHandle behind = run(brume.oneOffs().add(of("ben", 2)));
            awaitState(brume, behind, RunState.WAITING);
            assertThat(run(brume.oneOffs().add(of("carl", 1))).await(LONG).outcome())
                    .as("with a key that nobody holds")
                    .isEqualTo(Outcome.SUCCEEDED);

            doors.get("ben1").countDown();
            assertThat(behind.await(LONG).outcome()).isEqualTo(Outcome.SUCCEEDED);
            assertThat(state(brume, second)).contains(RunState.WAITING);
            doors.get("anna1").countDown();
            assertThat(third.await(LONG).value()).contains("reminded anna3");
            List<RunView> anna = brume.history().runs(RunFilter.newest(10)).stream()
                    .filter(view -> view.payload().orElse("").startsWith("anna"))
                    .toList();
            assertThat(anna).hasSize(3);
            for (int i = 0; i + 1 < anna.size(); i++) {
                Instant began = anna.get(i).lastAttempt().orElseThrow().startedAt();
                assertThat(began)
                        .isAfterOrEqualTo(anna.get(i + 1)
                                .lastAttempt()
                                .orElseThrow()
                                .endedAt()
                                .orElseThrow());
            }
            long until = System.nanoTime() + LONG.toNanos();
            while (!brume.history().gates().isEmpty()) {
                assertThat(System.nanoTime() - until)
                        .as("until all ends are settled")
                        .isNegative();
                fresh.store().transact(tx -> tx.gates().closeIdle(100));
            }
        }
    }

    @ParameterizedTest
    @EnumSource
    void anOrderKeyStandsForOneOrderAsLongAsItsRunIsOnRecord(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume brume = office(fresh, 4)) {
            OneOff order = OneOff.of(REMINDER, "anna").in(Duration.ofHours(1)).once("mail-17");
            RunHandle run = run(brume.oneOffs().add(order));
            assertThat(brume.oneOffs().add(order)).isEqualTo(new OneOffAnswer(Kind.ALREADY_ORDERED, Optional.of(run)));
            try (Connection caller = fresh.connection()) {
                caller.setAutoCommit(false);
                assertThat(brume.oneOffs().within(caller).addOrMove(order).kind())
                        .isEqualTo(Kind.ALREADY_ORDERED);
                assertThat(run(brume.oneOffs()
                                .within(caller)
                                .add(OneOff.of(REMINDER, "ben").once("mail-18"))))
                        .isNotEqualTo(run);
                caller.rollback();
            }
            run(brume.oneOffs().add(OneOff.of(REMINDER, "ben").once("mail-18")));
            assertThatThrownBy(() -> brume.oneOffs().add(order.payload("other")))
                    .isInstanceOf(IllegalArgumentException.class)
                    .hasMessageContaining("order key 'mail-17' stands for another order already");
            Instant tomorrow = brume.history().now().plusSeconds(90_000);
            assertThat(fresh.store().<Integer>transact(tx -> tx.requests().forget(tomorrow, 10)))
                    .as("both still wait")
                    .isZero();
            brume.oneOffs().drop(REMINDER, "anna");
            assertThat(fresh.store().<Integer>transact(tx -> tx.requests().forget(tomorrow, 10)))
                    .isEqualTo(1);
            run(brume.oneOffs().add(order));

            OneOff behind = OneOff.of(REMINDER, "anna").in(Duration.ofHours(2)).once("mail-19");
            assertThat(brume.oneOffs().add(behind).kind()).isEqualTo(Kind.ALREADY_WAITS);
            brume.oneOffs().drop(REMINDER, "anna");
            run(brume.oneOffs().add(behind));
            assertThat(brume.oneOffs().add(behind).kind())
                    .as("an order that was in the way did not use its order key up")
                    .isEqualTo(Kind.ALREADY_ORDERED);
        }
    }

    @ParameterizedTest
    @EnumSource
    void whoeverOrdersLearnsHowItEndedElsewhereToo(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume office = office(fresh, 4);
                Brume desk = Brume.on(fresh.store()).instance("desk").build()) {
            desk.define(Job.named("broken").handler("broken").build());
            office.handler("broken", run -> {
                throw new IllegalStateException("no ink");
            });
            RunHandle waits =
                    run(desk.oneOffs().add(OneOff.of(REMINDER, "later").in(Duration.ofHours(1))));
            RunHandle dropped =
                    run(desk.oneOffs().add(OneOff.of(REMINDER, "never").in(Duration.ofHours(1))));
            var gone = dropped.ended().toCompletableFuture();
            assertThat(waits.result()).isEmpty();
            assertThatThrownBy(() -> waits.await(Duration.ofMillis(1)))
                    .isInstanceOf(TimeoutException.class)
                    .hasMessageContaining("has not ended after PT0.001S");
            office.start();
            RunHandle byHand = desk.orders("anna", "").runNow(REMINDER, "anna");
            RunHandle broken = desk.orders("anna", "").runNow(JobName.parse("broken"));
            RunHandle joined;
            try (Connection caller = fresh.connection()) {
                caller.setAutoCommit(false);
                joined = run(desk.oneOffs()
                        .within(caller)
                        .add(OneOff.of(REMINDER, "now").payload("now")));
                assertThat(joined.result()).as("not committed yet").isEmpty();
                caller.commit();
            }

            assertThat(byHand.await(LONG))
                    .isEqualTo(new RunResult(
                            byHand.id(),
                            Outcome.SUCCEEDED,
                            Optional.empty(),
                            Optional.of("reminded anna"),
                            Optional.empty()));
            assertThat(joined.await(LONG).valueIfSucceeded()).contains("reminded now");
            RunResult failed = broken.ended().toCompletableFuture().get(60, TimeUnit.SECONDS);
            assertThatThrownBy(failed::valueIfSucceeded)
                    .hasMessageContaining("run " + broken.id() + " ended FAILED")
                    .hasMessageContaining("no ink");
            // What was waited for since before the others ended has been seen.
            desk.oneOffs().drop(REMINDER, "never");
            assertThatThrownBy(() -> gone.get(60, TimeUnit.SECONDS)).hasMessageContaining("it went without an end");
            var left = waits.ended().toCompletableFuture();
            desk.stop(Duration.ZERO);
            assertThatThrownBy(() -> left.get(60, TimeUnit.SECONDS))
                    .hasMessageContaining("was stopped before the run ended");
        }
    }

    @Test
    void anInstanceWithAFreeWorkerCallsNobodyForWhatItOrdersItself() throws Exception {
        try (Db.Fresh fresh = Db.POSTGRESQL.fresh();
                Brume office = office(fresh, 4);
                Brume desk = Brume.on(fresh.store()).instance("desk").build();
                Connection listening = fresh.connection();
                Statement statement = listening.createStatement()) {
            listening.setAutoCommit(true);
            statement.execute("listen brume_" + fresh.place());
            office.start();
            run(office.oneOffs().add(OneOff.of(REMINDER, "joins").at(Instant.EPOCH)))
                    .await(LONG);
            calls(listening);
            run(office.oneOffs().add(OneOff.of(REMINDER, "own").at(Instant.EPOCH)))
                    .await(LONG);
            office.orders("anna", "").runNow(REMINDER).await(LONG);
            assertThat(calls(listening)).isZero();

            run(desk.oneOffs().add(OneOff.of(REMINDER, "of others").at(Instant.EPOCH)));
            assertThat(calls(listening)).isEqualTo(1);
            desk.orders("anna", "").runNow(REMINDER);
            assertThat(calls(listening)).isEqualTo(1);
            desk.oneOffs().add(OneOff.of(REMINDER, "far").in(Duration.ofHours(1)));
            assertThat(calls(listening)).isZero();
        }
    }

    private static int calls(Connection listening) throws Exception {
        try (Statement statement = listening.createStatement()) {
            statement.execute("select 1");
        }
        PGNotification[] calls = listening.unwrap(PGConnection.class).getNotifications();
        return calls == null ? 0 : calls.length;
    }
}
