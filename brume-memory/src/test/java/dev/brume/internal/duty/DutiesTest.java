package dev.brume.internal.duty;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Defined;
import dev.brume.DefinitionSet;
import dev.brume.Event;
import dev.brume.IfBusy;
import dev.brume.IfFailed;
import dev.brume.IfLost;
import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.history.JobView;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.history.SessionRow;
import dev.brume.history.SpanView;
import dev.brume.internal.define.Registrar;
import dev.brume.internal.order.Edit;
import dev.brume.internal.order.Orderer;
import dev.brume.memory.MemoryStore;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.Share;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** The duties step by step, with a clock moved by hand and workers that do nothing by themselves. */
class DutiesTest {
    private static final Instant BEGIN = HandClock.BEGIN;
    private static final Duration LEASE = Duration.ofSeconds(15);

    private final HandClock clock = new HandClock();
    private final MemoryStore store = new MemoryStore(clock::wall);
    private final List<Event> events = new ArrayList<>();
    private TestNode quay;

    private TestNode node(String name, int free, String... handlers) {
        return new TestNode(name, free, store, clock, events, handlers);
    }

    @BeforeEach
    void open() {
        quay = node("quay-1", 4);
    }

    private void forward(Duration duration) {
        clock.forward(duration);
    }

    private void forwardSeconds(int seconds) {
        forward(Duration.ofSeconds(seconds));
    }

    private Defined define(Job.Builder job) {
        return new Registrar(quay.instance)
                .define(
                        DefinitionSet.of("test", List.of(job.build())),
                        Edit.by(Orderer.at(quay.instance, "tester", "")))
                .get(0);
    }

    private static Job.Builder everyTen() {
        return Job.named("tides").every(Duration.ofSeconds(10)).program("true");
    }

    private List<RunView> runs() {
        return store.history().runs(RunFilter.newest(100));
    }

    private RunView only() {
        assertThat(runs()).hasSize(1);
        return runs().get(0);
    }

    private JobView job() {
        return store.history().jobs().get(0);
    }

    @Test
    void aDueOccurrenceIsPlannedLeasedAndStartedInOneRound() {
        define(everyTen());
        quay.round.step();
        LeasedRun run = quay.takeStarted();

        assertThat(run.row().owed().planned()).isEqualTo(BEGIN);
        assertThat(run.row().state()).isEqualTo(RunState.RUNNING);
        assertThat(quay.instance.held()).containsExactly(run);
        quay.complete(run, AttemptEnd.SUCCEEDED);
        assertThat(only().outcome()).contains(Outcome.SUCCEEDED);
        assertThat(quay.instance.held()).isEmpty();
        assertThat(job().row().used()).isZero();
        assertThat(job().lastEnd().orElseThrow().outcome()).isEqualTo(Outcome.SUCCEEDED);
    }

    @Test
    void theRoundSleepsUntilTheNextOccurrenceAndNoLonger() {
        define(Job.named("tides").every(Duration.ofMillis(1500)).program("true"));
        quay.round.step();
        quay.round.step();

        assertThat(quay.round.step()).isEqualTo(Duration.ofSeconds(1));
        forward(Duration.ofMillis(1100));
        assertThat(quay.round.step()).isEqualTo(Duration.ofMillis(400));
    }

    @Test
    void withoutAFreeWorkerNothingIsPlannedUntilItIsOverdue() {
        TestNode full = node("quay-2", 0);
        define(everyTen());
        full.round.step();
        assertThat(runs()).isEmpty();

        forwardSeconds(12);
        quay.keep.step();
        full.keep.step();
        full.round.step();
        assertThat(only().state()).contains(RunState.PLANNED);
        quay.round.step();
        assertThat(quay.takeStarted().row().owed().planned()).isEqualTo(BEGIN);
    }

    @Test
    void aFullInstanceRestsAlthoughWorkIsDue() {
        TestNode full = node("quay-2", 0);
        define(everyTen());

        assertThat(full.round.step()).isEqualTo(Duration.ofSeconds(1));
        forwardSeconds(1);
        assertThat(full.round.step()).isEqualTo(Duration.ofSeconds(1));
    }

    @Test
    void aTakenOverRunIsLookedForAtOnce() {
        define(everyTen());
        quay.round.step();
        quay.takeStarted();
        forward(LEASE.plusSeconds(1));
        TestNode other = node("quay-2", 4);

        assertThat(other.round.step()).isZero();
        other.round.step();
        assertThat(other.started).extracting(run -> run.row().attempt()).contains(2);
    }

    @Test
    void aRunWhoseHandlerIsUnknownWaitsForAnInstanceThatKnowsIt() {
        define(Job.named("tides").once(BEGIN).handler("compute"));
        quay.round.step();
        assertThat(quay.started).isEmpty();
        assertThat(only().state()).contains(RunState.PLANNED);

        TestNode knowing = node("quay-2", 4, "compute");
        knowing.round.step();
        assertThat(knowing.takeStarted().id()).isEqualTo(only().id());
    }

    @Test
    void aHeldOccurrenceIsLetGoWhenTheEarlierRunHasEnded() {
        define(everyTen().ifBusy(IfBusy.waiting(1)));
        quay.round.step();
        LeasedRun first = quay.takeStarted();
        forwardSeconds(10);
        quay.keep.step();
        quay.round.step();
        assertThat(runs().get(0).state()).contains(RunState.WAITING);
        assertThat(job().row().waiting()).isEqualTo(1);

        quay.complete(first, AttemptEnd.SUCCEEDED);
        assertThat(runs().get(0).state()).contains(RunState.PLANNED);
        assertThat(job().row().waiting()).isZero();
        quay.round.step();
        assertThat(quay.takeStarted().row().owed().planned()).isEqualTo(BEGIN.plusSeconds(10));
    }

    @Test
    void aFailedRunKeepsItsPlaceAndComesBackAfterItsWait() {
        define(everyTen().ifFailed(IfFailed.attempts(2, Duration.ofSeconds(3))));
        quay.round.step();
        LeasedRun first = quay.takeStarted();
        quay.complete(first, AttemptEnd.FAILED);
        assertThat(only().state()).contains(RunState.BACKING_OFF);
        assertThat(job().row().used()).isEqualTo(1);

        forwardSeconds(2);
        quay.round.step();
        assertThat(quay.started).isEmpty();
        forwardSeconds(1);
        quay.round.step();
        LeasedRun second = quay.takeStarted();
        assertThat(second.row().leaseKey().fence())
                .isGreaterThan(first.row().leaseKey().fence());
        quay.complete(second, AttemptEnd.FAILED);
        assertThat(only().outcome()).contains(Outcome.FAILED);
        assertThat(only().attempts()).extracting(Attempt::number).containsExactly(1, 2);
    }

    @Test
    void aDeadInstancesRunIsTakenOverAndItsLateEndRefused() {
        define(everyTen());
        quay.round.step();
        LeasedRun lost = quay.takeStarted();
        TestNode other = node("quay-2", 4);
        forward(LEASE.plusSeconds(1));
        TestNode third = node("quay-3", 4);
        third.round.step();

        RunView run = runs().stream()
                .filter(view -> view.id() == lost.id())
                .findFirst()
                .orElseThrow();
        assertThat(run.attempts().get(0).end()).contains(AttemptEnd.LOST);
        assertThat(events).extracting(Event::kind).contains(Event.Kind.TAKEN_OVER);
        assertThat(other.instance.liveSession()).isEmpty();
        quay.complete(lost, AttemptEnd.SUCCEEDED);
        assertThat(events).extracting(Event::kind).contains(Event.Kind.REFUSED);
        assertThat(runs())
                .filteredOn(view -> view.id() == lost.id())
                .allSatisfy(view -> assertThat(view.outcome()).isEmpty());
    }

    @Test
    void anInstanceThatCannotBeUnderstoodCostsNobodyTheLease() {
        Instant now = store.history().now();
        SessionRow strange = new SessionRow(
                UUID.randomUUID(),
                "quay-9",
                "host",
                1,
                List.of("a lane written otherwise"),
                List.of(),
                "99",
                "2026a",
                0,
                SessionRow.State.OPEN,
                now,
                now,
                now.plus(LEASE),
                Optional.empty(),
                Optional.of(List.of()),
                Duration.ZERO,
                Optional.empty());
        store.transact(tx -> {
            tx.sessions().add(strange);
            return null;
        });
        quay.keep.step();

        assertThat(quay.instance.liveSession()).isPresent();
        assertThat(quay.instance.share()).as("all that is due").isEqualTo(Share.WHOLE);
        assertThat(events)
                .filteredOn(event -> event.kind() == Event.Kind.PROBLEM)
                .extracting(Event::text)
                .anySatisfy(text -> assertThat(text).contains("which other instances plan jobs could not be read"));
        define(everyTen());
        quay.round.step();
        assertThat(quay.takeStarted().row().owed().planned()).isEqualTo(BEGIN);
    }

    @Test
    void aLapsedInstancesEndIsAcceptedAsLongAsNobodyTookItsRun() {
        define(everyTen());
        quay.round.step();
        LeasedRun run = quay.takeStarted();
        forward(LEASE.plusSeconds(1));
        quay.complete(run, AttemptEnd.SUCCEEDED);

        assertThat(only().outcome()).contains(Outcome.SUCCEEDED);
    }

    @Test
    void aRunThatGivesUpWhenLostEndsSo() {
        define(everyTen().ifLost(IfLost.GIVE_UP));
        quay.round.step();
        quay.takeStarted();
        forward(LEASE.plusSeconds(1));
        node("quay-2", 4).round.step();

        assertThat(runs()).anySatisfy(run -> {
            assertThat(run.outcome()).contains(Outcome.LOST);
            assertThat(run.reason()).contains("INSTANCE_DIED");
        });
    }

    @Test
    void aLeaseThatMemoryDoesNotKnowIsGivenBackUncounted() {
        define(everyTen());
        quay.round.step();
        LeasedRun run = quay.takeStarted();
        quay.instance.letGo(run);
        for (int i = 0; i < 4; i++) {
            forwardSeconds(5);
            quay.keep.step();
        }
        quay.round.step();

        RunView first = runs().stream()
                .filter(view -> view.id() == run.id())
                .findFirst()
                .orElseThrow();
        assertThat(first.attempts())
                .as("the lost answer is no attempt")
                .filteredOn(a -> a.end().isPresent())
                .isEmpty();
        assertThat(events)
                .anySatisfy(
                        event -> assertThat(event.text()).contains("leased to this instance without its knowledge"));
    }

    @Test
    void changingADefinitionDecidesWhatTheOldOneOwed() {
        define(everyTen().ifMissed(IfMissed.skip().tolerance(Duration.ofSeconds(5))));
        forwardSeconds(35);
        Defined changed = define(Job.named("tides").every(Duration.ofSeconds(7)).program("true"));

        assertThat(changed.kind()).isEqualTo(Defined.Kind.CHANGED);
        assertThat(changed.version()).isEqualTo(2);
        List<SpanView> spans = store.history().spans(RunFilter.newest(10));
        assertThat(spans).singleElement().satisfies(view -> {
            assertThat(view.span().version()).isEqualTo(1);
            assertThat(view.span().count()).isEqualTo(3);
        });
        assertThat(only().owed().planned()).isEqualTo(BEGIN.plusSeconds(30));
        assertThat(only().version()).isEqualTo(1);
        assertThat(job().row().nextAt().orElseThrow()).isBetween(BEGIN.plusSeconds(35), BEGIN.plusSeconds(42));
    }

    @Test
    void changingADefinitionLosesNoneOfSeveralThatWereOnTime() {
        define(everyTen().ifBusy(IfBusy.alongside(10)));
        forwardSeconds(45);
        define(Job.named("tides").every(Duration.ofSeconds(7)).program("true"));

        assertThat(runs())
                .extracting(run -> run.owed().planned())
                .containsExactly(
                        BEGIN.plusSeconds(40),
                        BEGIN.plusSeconds(30),
                        BEGIN.plusSeconds(20),
                        BEGIN.plusSeconds(10),
                        BEGIN);
    }

    @Test
    void whatWasMissedWhileEveryoneWasAwayIsCaughtUpOnce() {
        define(everyTen());
        forward(Duration.ofMinutes(10));
        TestNode late = node("quay-2", 4);
        late.round.step();

        assertThat(late.started).extracting(run -> run.row().owed().origin()).containsOnly(Origin.SCHEDULE);
        assertThat(store.history().spans(RunFilter.newest(10)))
                .singleElement()
                .satisfies(view -> assertThat(view.span().reason()).isEqualTo("MISSED"));
        assertThat(events).extracting(Event::kind).contains(Event.Kind.MISSED);
    }

    @Test
    void droppingEndsTheSchedulesButNotTheRun() {
        define(everyTen());
        quay.round.step();
        LeasedRun run = quay.takeStarted();
        assertThat(new Registrar(quay.instance)
                        .drop(run.job().name(), Edit.by(Orderer.at(quay.instance, "tester", ""))))
                .isTrue();

        forwardSeconds(10);
        quay.keep.step();
        quay.round.step();
        assertThat(quay.started).isEmpty();
        quay.complete(run, AttemptEnd.SUCCEEDED);
        assertThat(only().outcome()).contains(Outcome.SUCCEEDED);
    }

    @Test
    void aDrainingInstanceTakesNothing() {
        define(everyTen());
        quay.instance.drain();
        quay.keep.drain();
        quay.round.step();

        assertThat(quay.started).isEmpty();
        assertThat(store.history().sessions(false).get(0).row().state().name()).isEqualTo("DRAINING");
        quay.keep.close();
        assertThat(store.history().sessions(false)).isEmpty();
    }

    @Test
    void whatWasToldOfIsRememberedWithinABound() {
        quay.instance.tellConcern("the buoy is gone");
        quay.instance.tellConcern("the buoy is gone");
        for (int i = 0; i < 1_000; i++) {
            quay.instance.tellConcern("lamp " + i + " is dark");
        }
        quay.instance.tellConcern("the buoy is gone");

        assertThat(events)
                .filteredOn(event -> event.text().equals("the buoy is gone"))
                .hasSize(2);
    }
}
