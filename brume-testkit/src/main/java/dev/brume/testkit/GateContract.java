package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.AttemptEnd;
import dev.brume.GateKey;
import dev.brume.IfBusy;
import dev.brume.RunState;
import dev.brume.history.Gate;
import dev.brume.history.Needs;
import dev.brume.history.NewestRuns;
import dev.brume.history.RunRow;
import dev.brume.history.RunView;
import dev.brume.history.SessionRow;
import dev.brume.spi.Ability;
import dev.brume.spi.OneOffOrder;
import dev.brume.spi.OneOffRow;
import dev.brume.spi.Share;
import dev.brume.spi.Store;
import dev.brume.spi.WaitingRun;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import org.junit.jupiter.api.Test;

/** What a store does with shared gates and with one-offs. */
abstract class GateContract extends SessionContract {
    private static final GateKey CRANE = new GateKey(GateKey.Kind.EXCLUSIVE, "crane");
    private static final GateKey PILOTS = new GateKey(GateKey.Kind.LIMIT, "pilots");

    private void addGates() {
        store.transact(tx -> {
            tx.gates().add(Map.of(CRANE, 1, PILOTS, 2));
            return null;
        });
    }

    private RunRow inGates(long job, Instant planned, RunState state, int priority, GateKey... gates) {
        RunRow run = run(job, planned, state, Optional.empty(), priority);
        return add(run.needing(run.needs(), List.of(gates)));
    }

    @Test
    void gatesAreAddedOnceResizedAndWritten() {
        addGates();
        store.transact(tx -> {
            tx.gates().resize(Map.of(PILOTS, 3));
            Map<GateKey, Gate> locked =
                    tx.gates().lock(List.of(PILOTS, CRANE, new GateKey(GateKey.Kind.EXCLUSIVE, "ghost")));
            assertThat(locked).containsOnlyKeys(CRANE, PILOTS);
            tx.gates().write(List.of(Objects.requireNonNull(locked.get(PILOTS)).taking(2)));
            return null;
        });

        List<Gate> all = store.transact(tx -> tx.gates().all());
        assertThat(all).containsExactlyInAnyOrder(new Gate(CRANE, 1, 0), new Gate(PILOTS, 3, 2));
    }

    @Test
    void whoWaitsAtAGateIsReadByPriorityAndThenByTimeSoManyOfEachJob() {
        addGates();
        long first = define(job("a").build(), past(10));
        long second = define(job("b").build(), past(10));
        RunRow low = inGates(first, past(30), RunState.WAITING, 1, PILOTS);
        inGates(first, past(20), RunState.WAITING, 1, PILOTS);
        RunRow high = inGates(second, past(10), RunState.WAITING, 8, CRANE, PILOTS);
        inGates(second, past(5), RunState.PLANNED, 9, PILOTS);
        store.transact(tx -> {
            List<RunRow> held = new ArrayList<>();
            tx.gates().waitingOf(List.of(first, second), 10).forEach(each -> held.add(find(each.run())));
            tx.gates().queue(held);
            return null;
        });

        List<WaitingRun> waiting = store.transact(tx -> tx.gates().waitingAt(List.of(PILOTS), 1));
        assertThat(waiting).extracting(WaitingRun::run).containsExactly(high.id(), low.id());
        assertThat(waiting.get(0).gates()).containsExactly(CRANE, PILOTS);
        List<WaitingRun> ofFirst = store.transact(tx -> tx.gates().waitingOf(List.of(first), 5));
        assertThat(ofFirst).hasSize(2);

        store.transact(tx -> {
            tx.lockJobsById(List.of(second));
            tx.letGo(List.of(high.id()), now());
            tx.gates().unqueue(List.of(high.id()));
            return null;
        });
        List<WaitingRun> left = store.transact(tx -> tx.gates().waitingAt(List.of(CRANE), 5));
        assertThat(left).isEmpty();
    }

    private RunRow find(long id) {
        RunView view = store.history().run(id).orElseThrow();
        return new RunRow(
                id,
                view.owed(),
                1,
                RunState.WAITING,
                "main",
                view.owed().planned().isBefore(past(15)) ? 1 : 8,
                Needs.NOTHING,
                view.readyAt(),
                Optional.empty(),
                List.of(),
                0,
                Optional.empty(),
                view.owed().planned().isBefore(past(15)) ? List.of(PILOTS) : List.of(CRANE, PILOTS),
                Optional.empty(),
                Optional.empty());
    }

    @Test
    void placesAreCountedFromLiveRunsAndFromEndsThatAreNotSettled() {
        addGates();
        long id = define(job("a").build(), past(10));
        SessionRow session = liveSession("quay-1");
        inGates(id, past(30), RunState.PLANNED, 5, PILOTS);
        inGates(id, past(20), RunState.WAITING, 5, PILOTS);
        inGates(id, past(10), RunState.PLANNED, 9, PILOTS, CRANE);
        RunRow claimed = claim(session, 1, Set.of()).get(0);
        end(claimed.leaseKey(), ended(claimed, AttemptEnd.SUCCEEDED, Optional.empty()));

        Map<GateKey, Integer> counts = store.transact(tx -> tx.gates().count(List.of(PILOTS, CRANE)));
        assertThat(counts).containsEntry(PILOTS, 2).containsEntry(CRANE, 1);
        assertThat(unsettled(Set.of(claimed.id()), 10))
                .singleElement()
                .satisfies(settle -> assertThat(settle.gates()).containsExactlyInAnyOrder(PILOTS, CRANE));
        Map<GateKey, Integer> settled = store.transact(tx -> tx.gates().count(List.of(PILOTS, CRANE)));
        assertThat(settled).containsEntry(PILOTS, 1).doesNotContainKey(CRANE);
    }

    @Test
    void jobsWithRoomWhoseRunsWaitAllTheSameAreFound() {
        long id = define(job("a").ifBusy(IfBusy.waiting(3)).build(), past(10));
        RunRow waiting = add(run(id, past(10), RunState.WAITING, Optional.empty(), 5));
        note(id, NewestRuns.NONE.planned(waiting.id(), /* isCrowded= */ false, /* beforeIsOver= */ true));

        List<Long> found = store.transact(tx -> tx.jobsWithRoomAndWaiting(10));
        assertThat(found).containsExactly(id);
    }

    private boolean order(long job, String key, Instant at) {
        return store.transact(
                tx -> tx.oneOffs().add(new OneOffOrder(job, key, at, Optional.of("{}"), "tester", Optional.empty())));
    }

    @Test
    void aOneOffIsDueFromItsTimeOnUntilARunIsMadeOfIt() {
        long id = define(job("a").build(), past(10));
        Instant at = past(5);
        assertThat(order(id, "closure", at)).isTrue();
        assertThat(order(id, "closure", at)).isFalse();
        assertThat(order(id, "later", now().plusSeconds(600))).isTrue();

        List<OneOffRow> due = store.transact(tx -> tx.oneOffs().due(Optional.empty(), now(), 10));
        assertThat(due)
                .extracting(OneOffRow::oneOff)
                .containsExactly(new OneOffOrder(id, "closure", at, Optional.of("{}"), "tester", Optional.empty()));
        List<OneOffRow> beyondHint = store.transact(tx -> tx.oneOffs().due(Optional.of(at.plusMillis(1)), now(), 10));
        assertThat(beyondHint).isEmpty();
        Store.Look look = new Store.Look(Set.of("main"), Ability.NONE, Share.WHOLE, Optional.empty(), true);
        assertThat(store.outlook(look).nextOneOff()).contains(at);

        long row = due.get(0).id();
        store.transact(tx -> {
            assertThat(tx.oneOffs().lock(List.of(row))).hasSize(1);
            tx.oneOffs().taken(Map.of(row, 77L));
            return null;
        });
        List<OneOffRow> again = store.transact(tx -> tx.oneOffs().lock(List.of(row)));
        assertThat(again).isEmpty();
        assertThat(order(id, "closure", at)).as("its key stays taken").isFalse();
    }
}
