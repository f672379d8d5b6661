package dev.brume.internal.duty;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.AttemptEnd;
import dev.brume.DefinitionSet;
import dev.brume.Event;
import dev.brume.GateKey;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.RunState;
import dev.brume.history.Gate;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.internal.define.Registrar;
import dev.brume.internal.order.Edit;
import dev.brume.internal.order.Orderer;
import dev.brume.internal.retention.SweepDuty;
import dev.brume.memory.MemoryStore;
import dev.brume.spi.LeasedRun;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.Test;

/** Places that jobs share: exclusion keys and limits. */
class GatesTest {
    private final HandClock clock = new HandClock();
    private final MemoryStore store = new MemoryStore(clock::wall);
    private final List<Event> events = new ArrayList<>();
    private final TestNode quay = new TestNode("quay-1", 10, store, clock, events);

    private static Job.Builder job(String name) {
        return Job.named(name).every(Duration.ofSeconds(10)).program("true");
    }

    private void define(Map<String, Integer> limits, Job.Builder... jobs) {
        List<Job> built = new ArrayList<>();
        for (Job.Builder job : jobs) {
            built.add(job.build());
        }
        new Registrar(quay.instance)
                .define(
                        DefinitionSet.of("test", built).withLimits(limits),
                        Edit.by(Orderer.at(quay.instance, "tester", "")));
    }

    private void round() {
        while (quay.round.step().isZero()) {
            // Until nothing is left to do.
        }
    }

    private List<String> startedJobs() {
        return quay.started.stream().map(run -> run.job().name().name()).toList();
    }

    private List<RunView> runs() {
        return store.history().runs(RunFilter.newest(100));
    }

    private void complete(LeasedRun run) {
        quay.started.remove(run);
        quay.complete(run, AttemptEnd.SUCCEEDED);
        round();
    }

    private Gate gate(GateKey.Kind kind, String name) {
        List<Gate> all = store.transact(tx -> tx.gates().all());
        return all.stream()
                .filter(gate -> gate.key().equals(new GateKey(kind, name)))
                .findFirst()
                .orElseThrow();
    }

    @Test
    void jobsOfOneExclusionKeyNeverRunAtOnceAndTheOneThatWaitsIsLetGo() {
        define(
                Map.of(),
                job("a").exclusive("crane").priority(9),
                job("b").exclusive("crane").ifBusy(IfBusy.waiting(1)));
        round();
        assertThat(startedJobs()).containsExactly("a");
        assertThat(runs())
                .filteredOn(run -> run.job().name().equals("b"))
                .singleElement()
                .satisfies(run -> assertThat(run.state()).contains(RunState.WAITING));

        complete(quay.started.get(0));

        assertThat(startedJobs()).containsExactly("b");
        assertThat(gate(GateKey.Kind.EXCLUSIVE, "crane").used()).isEqualTo(1);
        complete(quay.started.get(0));
        assertThat(gate(GateKey.Kind.EXCLUSIVE, "crane").used()).isZero();
    }

    @Test
    void keysAndLimitsAreOfANamespaceUnlessTheyAreTheClusters() {
        define(
                Map.of("harbour/pilots", 1, "ferry/pilots", 1, "/tugs", 1),
                job("harbour/a").exclusive("crane").limit("pilots"),
                job("ferry/b").exclusive("crane").limit("pilots"),
                job("harbour/c").limit("/tugs").priority(9),
                job("ferry/d").limit("/tugs"));
        round();

        assertThat(startedJobs()).containsExactlyInAnyOrder("a", "b", "c");
        assertThat(gate(GateKey.Kind.LIMIT, "/tugs").used()).isEqualTo(1);
        assertThat(gate(GateKey.Kind.LIMIT, "ferry/pilots").used()).isEqualTo(1);
        assertThat(gate(GateKey.Kind.EXCLUSIVE, "harbour/crane").used()).isEqualTo(1);
        assertThat(runs())
                .filteredOn(run -> run.job().name().equals("d"))
                .singleElement()
                .satisfies(run -> assertThat(run.state()).contains(RunState.WAITING));
        List.copyOf(quay.started).forEach(this::complete);
        assertThat(startedJobs()).containsExactly("d");
    }

    @Test
    void aJobThatSkipsWhenBusySkipsWhenAnotherOfItsKeyRuns() {
        define(Map.of(), job("a").exclusive("crane").priority(9), job("b").exclusive("crane"));
        round();

        assertThat(runs())
                .filteredOn(run -> run.job().name().equals("b"))
                .singleElement()
                .satisfies(run -> {
                    assertThat(run.outcome()).contains(Outcome.SKIPPED);
                    assertThat(run.reason()).contains(Reason.BUSY.name());
                });
    }

    @Test
    void aFullLimitHoldsWhateverIfBusySaysAndLetsGoByPriority() {
        define(
                Map.of("pilots", 1),
                job("a").limit("pilots").priority(9),
                job("low").limit("pilots").priority(1),
                job("high").limit("pilots").priority(7));
        round();
        assertThat(startedJobs()).containsExactly("a");
        assertThat(runs())
                .filteredOn(run -> run.state().equals(Optional.of(RunState.WAITING)))
                .hasSize(2);

        complete(quay.started.get(0));
        assertThat(startedJobs()).containsExactly("high");
        complete(quay.started.get(0));
        assertThat(startedJobs()).containsExactly("low");
    }

    @Test
    void anOccurrenceWhoseForerunnerStillWaitsForALimitFindsItsJobBusy() {
        define(Map.of("pilots", 1), job("a").limit("pilots").priority(9), job("b").limit("pilots"));
        round();
        clock.forward(Duration.ofSeconds(10));
        quay.keep.step();
        round();

        assertThat(runs())
                .filteredOn(run -> run.job().name().equals("b"))
                .extracting(run -> run.outcome().map(Enum::name).orElse(""))
                .containsExactlyInAnyOrder("", "SKIPPED");
    }

    @Test
    void aRaisedLimitLetsWhoeverWaitsGoAtOnce() {
        define(Map.of("pilots", 1), job("a").limit("pilots"), job("b").limit("pilots"), job("c").limit("pilots"));
        round();
        assertThat(quay.started).hasSize(1);

        define(Map.of("pilots", 3));
        round();

        assertThat(quay.started).hasSize(3);
        assertThat(gate(GateKey.Kind.LIMIT, "pilots"))
                .isEqualTo(new Gate(new GateKey(GateKey.Kind.LIMIT, "pilots"), 3, 3));
    }

    @Test
    void aLimitThatNobodyDefinedIsRefusedWithTheWayOut() {
        assertThatThrownBy(() -> define(Map.of(), job("a").limit("pilots")))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageContaining("job 'a'")
                .hasMessageContaining("'pilots'")
                .hasMessageContaining("limits: {pilots: N}");
        assertThat(store.history().jobs()).isEmpty();
    }

    @Test
    void aRunThatWasTakenOverKeepsItsPlaces() {
        define(Map.of("pilots", 1), job("a").limit("pilots"));
        round();
        quay.started.clear();
        clock.forward(TestNode.LEASE.plusSeconds(1));
        TestNode other = new TestNode("quay-2", 10, store, clock, events);
        other.round.step();

        assertThat(gate(GateKey.Kind.LIMIT, "pilots").used()).isEqualTo(1);
    }

    @Test
    void theSweepPutsCountsRightAndLetsGoWhoeverWaitsAlthoughThereIsRoom() {
        define(Map.of("pilots", 1), job("a").limit("pilots").priority(9), job("b").limit("pilots"));
        round();
        LeasedRun run = quay.started.remove(0);
        GateKey pilots = new GateKey(GateKey.Kind.LIMIT, "pilots");
        quay.complete(run, AttemptEnd.SUCCEEDED);
        round();
        quay.complete(quay.takeStarted(), AttemptEnd.SUCCEEDED);
        store.transact(tx -> {
            tx.gates().write(List.of(new Gate(pilots, 1, 1)));
            return null;
        });
        clock.forward(Duration.ofSeconds(10));
        quay.keep.step();
        round();
        assertThat(quay.started).isEmpty();

        new SweepDuty(quay.instance).sweep();
        round();

        assertThat(events)
                .anySatisfy(event ->
                        assertThat(event.text()).contains("LIMIT:pilots").contains("1 taken on record, 0 in truth"));
        assertThat(events).anySatisfy(event -> assertThat(event.text()).contains("waited although there was room"));
        assertThat(quay.started).hasSize(1);
    }
}
