package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.AttemptEnd;
import dev.brume.GateKey;
import dev.brume.IfBusy;
import dev.brume.Rate;
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
import dev.brume.spi.Transaction;
import dev.brume.spi.WaitingRun;
import java.time.Duration;
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
            tx.gates().write(List.of(Objects.requireNonNull(locked.get(PILOTS)).used(2)));
            return null;
        });

        List<Gate> all = store.transact(tx -> tx.gates().all());
        assertThat(all).containsExactlyInAnyOrder(new Gate(CRANE, 1, 0), new Gate(PILOTS, 3, 2));
    }

    private static Store.Look wholeLook() {
        return new Store.Look(Set.of("main"), Ability.NONE, Share.WHOLE, Optional.empty(), /* wide= */ false);
    }

    @Test
    void whatARateCountsIsKeptAndFoundWhenItLetsMoreBegin() {
        addGates();
        Rate three = Rate.of(3, Duration.ofMinutes(1));
        Instant begun = past(10);
        store.transact(tx -> {
            tx.gates().rate(Map.of(PILOTS, Optional.of(three)));
            Gate pilots =
                    Objects.requireNonNull(tx.gates().lock(List.of(PILOTS)).get(PILOTS));
            assertThat(pilots.rate()).contains(three);
            Gate full = pilots.begun(begun).begun(begun).begun(begun).used(1);
            assertThat(pilots.letsBegin(begun)).isTrue();
            assertThat(full.letsBegin(begun)).isFalse();
            tx.gates().write(List.of(full));
            return null;
        });

        Gate kept = store.transact(tx -> tx.gates().all()).get(1);
        Instant opens = kept.opensAt().orElseThrow();
        assertThat(opens)
                .isBetween(begun.plus(three.per()), begun.plus(three.per()).plusSeconds(2));
        assertThat(kept.letsBegin(opens.minusMillis(1))).isFalse();
        assertThat(kept.letsBegin(opens)).isTrue();
        assertThat(store.outlook(wholeLook()).nextOpening()).contains(opens);
        List<GateKey> before = store.transact(tx -> tx.gates().opened(opens.minusMillis(1), 10));
        assertThat(before).isEmpty();
        List<GateKey> then = store.transact(tx -> tx.gates().opened(opens, 10));
        assertThat(then).containsExactly(PILOTS);

        store.transact(tx -> {
            tx.gates().rate(Map.of(PILOTS, Optional.empty()));
            return null;
        });
        List<Gate> without = store.transact(tx -> tx.gates().all());
        assertThat(without).contains(new Gate(PILOTS, 2, 1));
        assertThat(store.outlook(wholeLook()).nextOpening()).isEmpty();
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

    private static OneOffOrder oneOff(long run, long job, String key, Instant at) {
        return new OneOffOrder(
                run, job, key, at, Optional.of("{}"), "tester", Optional.empty(), Optional.empty(), Optional.of(SPAN));
    }

    private boolean add(OneOffOrder order) {
        return store.transact(tx -> tx.oneOffs().add(order));
    }

    private Optional<OneOffRow> find(long job, String key) {
        return store.transact(tx -> tx.oneOffs().find(job, key));
    }

    @Test
    void aOneOffIsDueFromItsTimeOnUntilARunIsMadeOfIt() {
        long id = define(job("a").build(), past(10));
        Instant at = past(5);
        OneOffOrder closure = oneOff(77, id, "closure", at);
        assertThat(add(closure)).isTrue();
        assertThat(add(closure.as(78))).isFalse();
        assertThat(add(oneOff(79, id, "later", now().plusSeconds(600)))).isTrue();

        List<OneOffOrder> due = store.transact(tx -> tx.oneOffs().due(Optional.empty(), now(), 10));
        assertThat(due).containsExactly(closure);
        List<OneOffOrder> beyondHint = store.transact(tx -> tx.oneOffs().due(Optional.of(at.plusMillis(1)), now(), 10));
        assertThat(beyondHint).isEmpty();
        Store.Look look = new Store.Look(Set.of("main"), Ability.NONE, Share.WHOLE, Optional.empty(), true);
        assertThat(store.outlook(look).nextOneOff()).contains(at);
        assertThat(store.history().standing(List.of(77L, 78L, 79L)).live()).containsExactly(77L, 79L);

        store.transact(tx -> {
            assertThat(tx.oneOffs().lock(List.of(77L))).hasSize(1);
            tx.oneOffs().made(List.of(77L));
            return null;
        });
        List<OneOffOrder> again = store.transact(tx -> tx.oneOffs().lock(List.of(77L)));
        assertThat(again).isEmpty();
        assertThat(add(closure.as(80))).as("it is known as made").isFalse();
        OneOffRow made = find(id, "closure").orElseThrow();
        assertThat(made.made()).isTrue();
        assertThat(made.oneOff().payload()).as("its run has it").isEmpty();
    }

    @Test
    void aOneOffThatWasMadeGivesItsPlaceToTheNextOfItsKey() {
        long id = define(job("a").build(), past(10));
        GateKey anna = new GateKey(GateKey.Kind.ONE_OFF, "anna");
        OneOffOrder first = oneOff(77, id, "reminder", past(5));
        OneOffOrder next = new OneOffOrder(
                78,
                id,
                "reminder",
                past(4),
                Optional.empty(),
                "tester",
                Optional.empty(),
                Optional.of(anna),
                Optional.empty());
        add(first);
        store.transact(tx -> {
            tx.oneOffs().made(List.of(77L));
            tx.oneOffs().replace(find(tx, id, "reminder"), next);
            return null;
        });

        assertThat(find(id, "reminder")).contains(new OneOffRow(next, /* made= */ false));
        List<OneOffOrder> due = store.transact(tx -> tx.oneOffs().due(Optional.empty(), now(), 10));
        assertThat(due).containsExactly(next);
        store.transact(tx -> {
            tx.oneOffs().remove(find(tx, id, "reminder"));
            return null;
        });
        assertThat(find(id, "reminder")).isEmpty();
    }

    private static OneOffOrder find(Transaction tx, long job, String key) {
        return tx.oneOffs().find(job, key).orElseThrow().oneOff();
    }

    @Test
    void oneOffsThatWaitAreListedByTheirKeys() {
        long id = define(job("a").build(), past(10));
        add(oneOff(77, id, "ferry_2/b", past(5)));
        add(oneOff(78, id, "ferry_2/a", past(4)));
        add(oneOff(79, id, "ferryX2/a", past(3)));
        add(oneOff(80, id, "ferry_2/made", past(2)));
        store.transact(tx -> {
            tx.oneOffs().made(List.of(80L));
            return null;
        });

        List<OneOffOrder> ferry = store.transact(tx -> tx.oneOffs().waiting(id, "ferry_2/", 10));
        assertThat(ferry).extracting(OneOffOrder::run).containsExactly(78L, 77L);
        List<OneOffOrder> all = store.transact(tx -> tx.oneOffs().waiting(id, "", 2));
        assertThat(all).hasSize(2);
    }

    @Test
    void keysOfOneOffsAreThereAsLongAsSomeRunHasToDoWithThem() {
        long id = define(job("a").build(), past(10));
        GateKey anna = new GateKey(GateKey.Kind.ONE_OFF, "anna");
        GateKey ben = new GateKey(GateKey.Kind.ONE_OFF, "ben");
        GateKey idle = new GateKey(GateKey.Kind.ONE_OFF, "idle");
        addGates();
        store.transact(tx -> {
            tx.gates().open(List.of(ben, anna, idle));
            tx.gates().open(List.of(anna));
            tx.gates().write(List.of(new Gate(anna, 1, 1)));
            return null;
        });
        RunRow waiting = inGates(id, past(10), RunState.WAITING, 5, ben);
        store.transact(tx -> {
            tx.gates().queue(List.of(waiting));
            return null;
        });

        int closed = store.transact(tx -> tx.gates().closeIdle(10));
        assertThat(closed).isEqualTo(1);
        assertThat(store.history().gates()).extracting(Gate::key).containsExactlyInAnyOrder(CRANE, PILOTS, anna, ben);
    }
}
