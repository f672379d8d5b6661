package dev.brume.internal.duty;

import static dev.brume.OneOffAnswer.Kind.ADDED;
import static dev.brume.OneOffAnswer.Kind.ALREADY_RAN;
import static dev.brume.OneOffAnswer.Kind.ALREADY_WAITS;
import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.AttemptEnd;
import dev.brume.Defined;
import dev.brume.DefinitionSet;
import dev.brume.Event;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.OneOffAnswer;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.RunState;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.internal.define.Registrar;
import dev.brume.internal.order.ClusterOrders;
import dev.brume.internal.order.Edit;
import dev.brume.internal.order.HandOrders;
import dev.brume.internal.order.Joined;
import dev.brume.internal.order.OneOffOrders;
import dev.brume.internal.order.Orderer;
import dev.brume.memory.MemoryStore;
import dev.brume.spi.LeasedRun;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** One-offs, revisions, orders to drain, epochs: what people and files ask for. */
class OrdersTest {
    private static final JobName BRIDGE = JobName.parse("bridge");

    private final HandClock clock = new HandClock();
    private final MemoryStore store = new MemoryStore(clock::wall);
    private final List<Event> events = new ArrayList<>();
    private TestNode quay;

    @BeforeEach
    void start() {
        quay = new TestNode("quay-1", 4, store, clock, events);
    }

    private List<Defined> define(DefinitionSet set) {
        return new Registrar(quay.instance).define(set, Edit.by(Orderer.at(quay.instance, "tester", "")));
    }

    private static Job.Builder bridge() {
        return Job.named("bridge").program("true").payload("own");
    }

    private static DefinitionSet set(Job.Builder job) {
        return DefinitionSet.of("harbour.yaml", List.of(job.build()));
    }

    private OneOffAnswer.Kind order(String key, Instant at, String payload) {
        return new OneOffOrders(quay.instance)
                .add(
                        payload == null
                                ? OneOff.of(BRIDGE, key).at(at)
                                : OneOff.of(BRIDGE, key).at(at).payload(payload),
                        Joined.NONE)
                .kind();
    }

    private List<RunView> runs() {
        return store.history().runs(RunFilter.newest(100));
    }

    private Instant in(int seconds) {
        return clock.wall().plusSeconds(seconds);
    }

    // One-offs.

    @Test
    void aOneOffRunsOnceAtItsTimeWithItsOwnPayload() {
        define(set(bridge()));
        assertThat(order("closure-17", in(30), "closed")).isEqualTo(ADDED);
        assertThat(quay.round.step()).isPositive();
        assertThat(quay.started).isEmpty();

        clock.forward(Duration.ofSeconds(30));
        quay.keep.step();
        quay.round.step();

        LeasedRun run = quay.takeStarted();
        assertThat(run.row().payload()).contains("closed");
        assertThat(run.row().owed().origin()).isEqualTo(Origin.ONE_OFF);
        assertThat(run.row().owed().oneOffKey()).contains("closure-17");
        quay.complete(run, AttemptEnd.SUCCEEDED);
        quay.round.step();
        assertThat(runs()).hasSize(1);
    }

    @Test
    void anOrderGivenTwiceMakesOneRunEvenAfterItHasEndedAndAnotherInstantTheNext() {
        define(set(bridge()));
        Instant at = in(0);
        assertThat(order("closure-17", at, null)).isEqualTo(ADDED);
        assertThat(order("closure-17", in(5), null)).isEqualTo(ALREADY_WAITS);
        quay.round.step();
        quay.complete(quay.takeStarted(), AttemptEnd.SUCCEEDED);

        assertThat(order("closure-17", at, null)).isEqualTo(ALREADY_RAN);
        clock.forward(Duration.ofSeconds(10));
        quay.keep.step();
        quay.round.step();
        assertThat(runs()).hasSize(1);
        assertThat(order("closure-17", in(-3), null)).isEqualTo(ADDED);
        quay.round.step();
        assertThat(runs()).hasSize(2);
    }

    @Test
    void aOneOffThatFindsItsJobBusyWaitsHoweverTheJobSkips() {
        define(set(bridge().ifBusy(IfBusy.skip())));
        order("first", in(0), null);
        order("second", in(0), null);
        quay.round.step();
        LeasedRun first = quay.takeStarted();
        assertThat(runs())
                .filteredOn(run -> run.state().equals(Optional.of(RunState.WAITING)))
                .hasSize(1);

        quay.complete(first, AttemptEnd.SUCCEEDED);
        quay.round.step();
        assertThat(quay.takeStarted().row().owed().oneOffKey()).contains("second");
    }

    @Test
    void aOneOffOfADroppedJobIsSkippedAndSaysWhy() {
        define(set(bridge()));
        order("closure-17", in(30), null);
        new Registrar(quay.instance).drop(BRIDGE, Edit.by(Orderer.at(quay.instance, "tester", "")));
        clock.forward(Duration.ofSeconds(30));
        quay.keep.step();
        quay.round.step();

        assertThat(runs()).singleElement().satisfies(run -> {
            assertThat(run.outcome()).contains(Outcome.SKIPPED);
            assertThat(run.reason()).contains(Reason.JOB_DROPPED.name());
        });
    }

    @Test
    void anOrderForNoJobOrWithoutAKeyIsRefused() {
        define(set(bridge()));
        assertThatThrownBy(() -> new OneOffOrders(quay.instance)
                        .add(OneOff.of("ghost", "x").at(in(0)), Joined.NONE))
                .hasMessageContaining("there is no job 'ghost'");
        String tooLong = "x".repeat(Job.LONGEST_PAYLOAD + 1);
        assertThatThrownBy(() -> order("long", in(0), tooLong)).hasMessageContaining("65537 characters is above 65536");
        assertThatThrownBy(() -> new HandOrders(quay.instance, Orderer.at(quay.instance, "ines", ""))
                        .runNow(BRIDGE, Optional.of(tooLong)))
                .hasMessageContaining("65537 characters is above 65536");
        assertThatThrownBy(() -> order(" ", in(0), null)).hasMessageContaining("one-off key");
        assertThatThrownBy(() -> order("x".repeat(151), in(0), null)).hasMessageContaining("above 150");
        assertThatThrownBy(() -> order("key", Instant.MAX, null)).hasMessageContaining("outside 1900 to 8999");
        assertThatThrownBy(() -> order("nul \0", in(0), null)).hasMessageContaining("one-off key: holds NUL");
    }

    // Revisions.

    @Test
    void aLowerRevisionIsNotApplied() {
        define(set(bridge().priority(1)).withRevision(7));
        List<Defined> results = define(set(bridge().priority(2)).withRevision(6));

        assertThat(results).extracting(Defined::kind).containsExactly(Defined.Kind.OUTDATED);
        assertThat(store.history().jobs().get(0).job().priority()).isEqualTo(1);
        assertThat(define(set(bridge().priority(3)).withRevision(8)))
                .extracting(Defined::kind)
                .containsExactly(Defined.Kind.CHANGED);
    }

    @Test
    void anEditThatGoesBackAndForthIsReportedAsTwoWhoDisagree() {
        for (int priority : List.of(1, 2, 1)) {
            define(set(bridge().priority(priority)));
        }
        assertThat(events).noneSatisfy(event -> assertThat(event.text()).contains("back and forth"));

        define(set(bridge().priority(2)));

        assertThat(events).anySatisfy(event -> assertThat(event.text()).contains("back and forth"));
    }

    // Draining.

    @Test
    void anInstanceAskedToDrainTakesNothingMoreAndLearnsOfItAtItsNextRenewal() {
        define(set(bridge()));
        List<String> asked = new ArrayList<>();
        quay.instance.whenAskedToDrain(() -> asked.add("asked"));
        assertThat(new ClusterOrders(quay.instance).drain("quay-9", Edit.by(Orderer.at(quay.instance, "tester", ""))))
                .isEmpty();
        assertThat(new ClusterOrders(quay.instance).drain("quay-1", Edit.by(Orderer.at(quay.instance, "tester", ""))))
                .hasSize(1);
        order("closure-17", in(0), null);

        quay.round.step();
        assertThat(quay.started).as("not even before it knows").isEmpty();
        quay.keep.step();
        quay.keep.step();

        assertThat(asked).containsExactly("asked");
        assertThat(events).extracting(Event::kind).contains(Event.Kind.DRAINING);
        quay.keep.close();
        assertThat(store.history().sessions(false)).isEmpty();
    }

    // Epochs.

    private static long epochOf(LeasedRun run) {
        return run.row().lease().orElseThrow().fence() >> 46;
    }

    @Test
    void aStandbyThatTakesOverWithoutTheLastCommitsRaisesTheEpoch() {
        define(set(bridge().ifBusy(IfBusy.alongside(5))));
        MemoryStore.Copy copy = store.copy();
        order("first", in(0), null);
        quay.round.step();
        LeasedRun lost = quay.takeStarted();
        store.failOver(copy);

        order("second", in(0), null);
        quay.round.step();
        assertThat(quay.started)
                .as("leases nothing in a history it does not know")
                .isEmpty();
        quay.keep.step();
        quay.round.step();

        LeasedRun run = quay.takeStarted();
        assertThat(epochOf(run)).isEqualTo(epochOf(lost) + 1);
        assertThat(run.row().lease().orElseThrow().fence())
                .isGreaterThan(lost.row().lease().orElseThrow().fence());
        assertThat(store.<Long>transact(tx -> tx.sessions().epoch())).isEqualTo(1);
    }

    @Test
    void aRestoreWhileNobodyWasThereRaisesTheEpochAtTheFirstStart() {
        quay.keep.close();
        store.failOver(store.copy());
        new TestNode("quay-2", 1, store, clock, events);

        assertThat(store.<Long>transact(tx -> tx.sessions().epoch())).isEqualTo(1);
        new TestNode("quay-3", 1, store, clock, events);
        assertThat(store.<Long>transact(tx -> tx.sessions().epoch()))
                .as("only once")
                .isEqualTo(1);
    }

    @Test
    void theEpochRisesByOrderAndOpenSessionsMakeWayForNewOnes() {
        define(set(bridge()));
        order("closure-17", in(0), null);
        assertThat(new ClusterOrders(quay.instance).restored(Edit.by(Orderer.at(quay.instance, "tester", ""))))
                .isEqualTo(1);

        quay.round.step();
        assertThat(quay.started)
                .as("nothing is leased in an epoch that is over")
                .isEmpty();
        quay.keep.step();
        quay.round.step();
        assertThat(epochOf(quay.takeStarted())).isEqualTo(1);
        assertThat(store.<Long>transact(tx -> tx.sessions().epoch()))
                .as("raised once")
                .isEqualTo(1);
    }

    // Handlers.

    @Test
    void aRunWhosePayloadIsOfAnUnknownTypeIsLeftToOthersToo() {
        TestNode older = new TestNode("quay-2", 1, store, clock, events, "rosters", "rosters(roster-1)");
        TestNode newer =
                new TestNode("quay-3", 1, store, clock, events, "rosters", "rosters(roster-1)", "rosters(roster-2)");
        define(DefinitionSet.of(
                "test",
                List.of(Job.named("rosters")
                        .every(Duration.ofSeconds(10))
                        .handler("rosters")
                        .payloadType("roster-2")
                        .build())));
        clock.forward(Duration.ofSeconds(1));
        older.round.step();
        older.round.step();
        assertThat(older.started).isEmpty();

        newer.round.step();
        assertThat(newer.takeStarted().job().payloadType()).contains("roster-2");
    }

    @Test
    void aRunWhoseHandlerIsUnknownIsLeftToOthersAndSaidSo() {
        define(DefinitionSet.of(
                "test",
                List.of(Job.named("rosters")
                        .every(Duration.ofSeconds(10))
                        .handler("rosters")
                        .build())));
        quay.round.step();
        assertThat(quay.started).isEmpty();
        assertThat(events)
                .anySatisfy(event -> assertThat(event.text())
                        .contains("rosters needs an instance that has the handler 'rosters'; left to others"));

        TestNode newer = new TestNode("quay-2", 1, store, clock, events, "rosters");
        newer.round.step();
        assertThat(newer.takeStarted().job().name().name()).isEqualTo("rosters");
    }
}
