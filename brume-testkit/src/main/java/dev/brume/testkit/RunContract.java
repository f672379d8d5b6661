package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.tuple;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.StoreException;
import dev.brume.history.Backlog;
import dev.brume.history.JobFilter;
import dev.brume.history.JobRow;
import dev.brume.history.LastEnd;
import dev.brume.history.LeaseKey;
import dev.brume.history.Needs;
import dev.brume.history.NewestRuns;
import dev.brume.history.Output;
import dev.brume.history.Progress;
import dev.brume.history.RunRow;
import dev.brume.history.RunView;
import dev.brume.history.SessionRow;
import dev.brume.spi.Ability;
import dev.brume.spi.Awaited;
import dev.brume.spi.JobAdvance;
import dev.brume.spi.Numbers;
import dev.brume.spi.Outlook;
import dev.brume.spi.Pins;
import dev.brume.spi.PrintedNote;
import dev.brume.spi.ProgressNote;
import dev.brume.spi.Redefinition;
import dev.brume.spi.RunEnd;
import dev.brume.spi.RunRelease;
import dev.brume.spi.Settle;
import dev.brume.spi.Share;
import dev.brume.spi.Store;
import dev.brume.spi.WaitingRun;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.junit.jupiter.api.Test;

/** What a store does with runs, from being due to their end. */
abstract class RunContract extends DefinitionContract {
    @Test
    void dueJobsAreFoundEarliestFirstAndOthersAreNot() {
        long late = define(job("late").build(), past(30));
        long later = define(job("later").build(), past(10));
        define(job("future").build(), now().plusSeconds(600));

        assertThat(due(Optional.empty(), 10)).extracting(JobRow::id).containsExactlyInAnyOrder(late, later);
        assertThat(due(Optional.empty(), 1)).extracting(JobRow::id).containsExactly(late);
        assertThat(due(Optional.of(past(20)), 10)).extracting(JobRow::id).containsExactly(later);
    }

    @Test
    void theBacklogIsWhatIsDueAndHasNotBegun() {
        assertThat(store.history().backlog().owed()).isZero();
        assertThat(store.history().backlog().oldest()).isZero();
        SessionRow session = liveSession("quay-1");
        session("quay-2", past(10));
        long late = define(job("late").build(), past(90));
        define(job("future").build(), now().plusSeconds(600));
        leased(late, past(300), session);
        RunRow ready = add(run(late, past(60), RunState.PLANNED, Optional.empty(), 5));
        add(run(late, now().plusSeconds(600), RunState.BACKING_OFF, Optional.empty(), 5));
        add(run(late, past(40), RunState.WAITING, Optional.empty(), 5));

        Backlog backlog = store.history().backlog();

        assertThat(backlog.lanes())
                .extracting(Backlog.Lane::state, Backlog.Lane::runs, Backlog.Lane::ready)
                .containsExactly(
                        tuple(RunState.PLANNED, 1L, 1L),
                        tuple(RunState.WAITING, 1L, 1L),
                        tuple(RunState.RUNNING, 1L, 1L),
                        tuple(RunState.BACKING_OFF, 1L, 0L));
        assertThat(backlog.lanes().get(0).name()).isEqualTo("main");
        assertThat(backlog.lanes().get(0).oldest()).contains(ready.readyAt());
        assertThat(backlog.unplanned()).isEqualTo(1);
        assertThat(backlog.owed()).isEqualTo(3);
        assertThat(backlog.oldest()).isBetween(Duration.ofSeconds(90), Duration.ofSeconds(600));
        assertThat(backlog.instances()).isEqualTo(1);
    }

    @Test
    void jobsThatFallDueAtAnInstantAreFoundBeforeIt() {
        Instant soon = now().plusSeconds(600);
        long first = define(job("first").build(), soon);
        long second = define(job("second").build(), soon);
        define(job("before").build(), soon.minus(1, ChronoUnit.MICROS));
        define(job("after").build(), soon.plus(1, ChronoUnit.MICROS));

        List<JobRow> all = store.transact(tx -> tx.lockJobsDueAt(soon, Share.WHOLE, 10));
        assertThat(all).extracting(JobRow::id).containsExactlyInAnyOrder(first, second);
        Share own = new Share(/* isWhole= */ false, Map.of("main", Set.of(Share.bucketOf(second))));
        List<JobRow> shared = store.transact(tx -> tx.lockJobsDueAt(soon, own, 10));
        assertThat(shared).extracting(JobRow::id).containsExactly(second);
        List<JobRow> one = store.transact(tx -> tx.lockJobsDueAt(soon, Share.WHOLE, 1));
        assertThat(one).hasSize(1);
    }

    @Test
    void dueJobsAreFoundByShares() {
        long first = define(job("first").build(), past(30));
        long second = define(job("second").build(), past(20));
        long elsewhere = define(job("elsewhere").lane("night").build(), past(10));
        Share own = new Share(
                /* isWhole= */ false,
                Map.of("main", Set.of(Share.bucketOf(second)), "night", Set.of(Share.bucketOf(first))));
        assertThat(own.has("main", second)).isTrue();

        List<JobRow> due = store.transact(tx -> tx.lockDueJobs(Optional.empty(), Optional.empty(), own, 10));
        assertThat(due).extracting(JobRow::id).containsExactly(second);
        List<JobRow> overdue =
                store.transact(tx -> tx.lockDueJobs(Optional.empty(), Optional.of(past(15)), Share.WHOLE, 10));
        assertThat(overdue).extracting(JobRow::id).containsExactlyInAnyOrder(first, second);
        Outlook seen =
                store.outlook(new Store.Look(Set.of("main"), Ability.NONE, own, Optional.empty(), /* wide= */ false));
        assertThat(seen.nextDue()).isEqualTo(lockOne(second).nextAt());
        assertThat(seen.nextOfAny()).isEqualTo(lockOne(first).nextAt());

        Share none = new Share(/* isWhole= */ false, Map.of());
        assertThat(store.<List<JobRow>>transact(tx -> tx.lockDueJobs(Optional.empty(), Optional.empty(), none, 10)))
                .isEmpty();
        Redefinition moved = new Redefinition(
                elsewhere,
                2,
                job("elsewhere").build(),
                Pins.NONE,
                "test",
                past(10),
                Optional.of(past(5)),
                Optional.empty());
        store.transact(tx -> {
            tx.lockJobsById(List.of(elsewhere));
            tx.redefine(List.of(moved));
            return null;
        });
        Share main = new Share(/* isWhole= */ false, Map.of("main", Set.of(Share.bucketOf(elsewhere))));
        List<JobRow> there = store.transact(tx -> tx.lockDueJobs(Optional.empty(), Optional.empty(), main, 10));
        assertThat(there).extracting(JobRow::id).contains(elsewhere);
    }

    @Test
    void whatPlanningChangesOnAJobIsKeptToTheMicrosecond() {
        long id = define(job("tide-tables").build(), past(10));
        Instant cursor = Instant.parse("2026-11-23T10:00:00.123456Z");
        Instant next = Instant.parse("2026-11-23T10:05:00.000001Z");
        NewestRuns runs = new NewestRuns(Optional.of(78L), Optional.of(77L), /* crowded= */ true);
        store.transact(tx -> {
            tx.lockJobsById(List.of(id));
            tx.advance(List.of(new JobAdvance(id, cursor, Optional.of(next), runs, Optional.empty())));
            return null;
        });

        JobRow row = lockOne(id);
        assertThat(row.cursor()).isEqualTo(cursor);
        assertThat(row.nextAt()).contains(next);
        assertThat(row.runs()).isEqualTo(runs);
    }

    @Test
    void theLastEndIsThatOfTheNewestRunThatHasEnded() {
        long id = define(job("tide-tables").build(), past(10));
        SessionRow session = liveSession("quay-1");
        RunRow first = leased(id, past(30), session);
        RunRow second = leased(id, past(20), session);
        note(id, new NewestRuns(Optional.of(second.id()), Optional.of(first.id()), /* crowded= */ false));
        assertThat(store.history().jobs().get(0).lastEnd()).as("both are live").isEmpty();

        Attempt failed = ended(first, AttemptEnd.FAILED, Optional.of("exit code 3"));
        end(first.leaseKey(), failed);
        LastEnd one = new LastEnd(first.id(), Outcome.FAILED, failed.endedAt().orElseThrow());
        assertThat(store.history().job(lockOne(id).name()).orElseThrow().lastEnd())
                .contains(one);
        assertThat(store.history().jobs(JobFilter.first(10).thatFail())).hasSize(1);

        endQuietly(second);
        assertThat(store.history().jobs().get(0).lastEnd()).map(LastEnd::run).contains(second.id());
        assertThat(store.history().jobs(JobFilter.first(10).thatFail())).isEmpty();
    }

    @Test
    void placesAreThoseOfLiveRuns() {
        long id = define(job("tide-tables").build(), past(10));
        SessionRow session = liveSession("quay-1");
        assertThat(lockOne(id).live()).isZero();
        RunRow running = leased(id, past(30), session);
        note(id, NewestRuns.NONE.planned(running.id(), /* isCrowded= */ false, /* beforeIsOver= */ true));
        assertThat(lockOne(id).used()).isEqualTo(1);

        RunRow waiting = add(run(id, past(20), RunState.WAITING, Optional.empty(), 5));
        note(id, lockOne(id).runs().planned(waiting.id(), /* isCrowded= */ true, /* beforeIsOver= */ false));
        for (JobRow row : List.of(
                lockOne(id),
                store.history().jobs().get(0).row(),
                due(Optional.empty(), 1).get(0))) {
            assertThat(row.used()).isEqualTo(1);
            assertThat(row.waiting()).isEqualTo(1);
        }

        endQuietly(running);
        assertThat(lockOne(id).used()).isZero();
        assertThat(lockOne(id).waiting()).isEqualTo(1);
    }

    @Test
    void anEndIsSettledOnlyWhereSomethingFollowsOrSomebodyWaits() {
        long id = define(job("tide-tables").build(), past(10));
        long other = define(job("crane-check").build(), past(10));
        SessionRow session = liveSession("quay-1");
        RunRow alone = leased(other, past(40), session);
        RunRow awaited = leased(id, past(30), session);
        RunRow waiting = add(run(id, past(20), RunState.WAITING, Optional.empty(), 5));
        Awaited marked = store.transact(tx -> {
            tx.lockJobsById(List.of(id));
            return tx.await(List.of(id));
        });
        assertThat(marked.marked()).containsOnly(Map.entry(awaited.id(), id), Map.entry(waiting.id(), id));
        assertThat(marked.busy()).isEmpty();
        assertThat(store.<Awaited>transact(tx -> tx.await(List.of(id))))
                .as("once more")
                .isEqualTo(marked);

        assertThat(endQuietly(alone).unsettled()).isEmpty();
        assertThat(endQuietly(awaited).unsettled()).containsExactly(awaited.id());
        store.transact(tx -> {
            tx.lookAgain(Map.of(waiting.id(), id));
            return null;
        });
        assertThat(unsettled(Set.of(), 10))
                .extracting(
                        Settle::run,
                        settle -> settle.end().map(Settle.End::outcome),
                        settle -> settle.end().flatMap(Settle.End::trace))
                .containsExactly(
                        tuple(awaited.id(), Optional.of(Outcome.SUCCEEDED), Optional.of(SPAN)),
                        tuple(waiting.id(), Optional.empty(), Optional.empty()));
    }

    @Test
    void aRunThatIsTriedAgainStaysAwaited() {
        long id = define(job("tide-tables").build(), past(10));
        SessionRow session = liveSession("quay-1");
        RunRow run = leased(id, past(30), session);
        store.<Awaited>transact(tx -> tx.await(List.of(id)));
        release(run, RunState.BACKING_OFF, past(1), ended(run, AttemptEnd.FAILED, Optional.empty()));

        RunRow again = claim(session, 1, Set.of()).get(0);
        assertThat(endQuietly(again).unsettled()).containsExactly(run.id());
    }

    @Test
    void anOccurrenceCannotBeOwedTwice() {
        long id = define(job("tide-tables").build(), past(10));
        Instant planned = past(10);
        add(run(id, planned, RunState.PLANNED, Optional.empty(), 5));

        assertThatThrownBy(() -> add(run(id, planned, RunState.PLANNED, Optional.empty(), 5)))
                .isInstanceOf(StoreException.class);
    }

    @Test
    void aStepThatThrowsLeavesNothingBehind() {
        long id = define(job("tide-tables").build(), past(10));
        RunRow run = run(id, past(10), RunState.PLANNED, Optional.empty(), 5);

        assertThatThrownBy(() -> store.transact(tx -> {
                    tx.addRuns(List.of(run));
                    throw new IllegalArgumentException("changed my mind");
                }))
                .hasMessage("changed my mind");
        assertThat(store.history().run(run.id())).isEmpty();
    }

    @Test
    void numbersRise() {
        Numbers first = store.transact(tx -> tx.take(3));
        Numbers second = store.transact(tx -> tx.take(2));

        assertThat(first.fences()).hasSize(3).isSorted();
        assertThat(second.fences().get(0)).isGreaterThan(first.fences().get(2));
        assertThat(second.ids().get(0)).isGreaterThan(first.ids().get(2));
    }

    @Test
    void runsAreClaimedByPriorityThenTimeAndGetRisingFences() {
        long id = define(job("tide-tables").build(), past(10));
        SessionRow session = liveSession("quay-1");
        RunRow early = add(run(id, past(30), RunState.PLANNED, Optional.empty(), 5));
        RunRow late = add(run(id, past(20), RunState.PLANNED, Optional.empty(), 5));
        RunRow urgent = add(run(id, past(10), RunState.PLANNED, Optional.empty(), 9));
        add(run(id, past(40), RunState.WAITING, Optional.empty(), 9));
        add(run(id, now().plusSeconds(600), RunState.PLANNED, Optional.empty(), 9));

        assertThat(claim(session, 2, Set.of())).extracting(RunRow::id).containsExactly(urgent.id(), early.id());
        List<RunRow> rest = claim(session, 10, Set.of());
        assertThat(rest).extracting(RunRow::id).containsExactly(late.id());
        assertThat(rest.get(0).attempt()).isEqualTo(1);
        assertThat(rest.get(0).owed()).isEqualTo(late.owed());
        assertThat(claim(session, 10, Set.of())).isEmpty();
        assertThat(leasedTo(session.id())).containsOnlyKeys(urgent.id(), early.id(), late.id());
    }

    private RunRow needing(Needs needs) {
        long id = define(job("tide-tables").build(), past(10));
        RunRow plain = run(id, past(10), RunState.PLANNED, Optional.empty(), 5);
        return add(plain.needing(needs, List.of()));
    }

    @Test
    void aRunIsLeftToThoseWhoCarryAllItsLabels() {
        SessionRow session = liveSession("quay-1");
        RunRow needing = needing(new Needs(Optional.empty(), List.of("crane", "north"), Optional.empty()));
        for (Set<String> labels : List.of(Set.<String>of(), Set.of("crane"), Set.of("north", "rthcra"))) {
            Ability ability = new Ability(Set.of(), labels, Optional.of(session.id()));
            assertThat(claim(session, 10, ability, /* oldestFirst= */ false)).isEmpty();
            assertThat(store.outlook(new Store.Look(Set.of("main"), ability, Share.WHOLE, Optional.empty(), true))
                            .nextReady())
                    .isEmpty();
        }

        Ability enough = new Ability(Set.of(), Set.of("crane", "north", "quay"), Optional.of(session.id()));

        assertThat(store.outlook(new Store.Look(Set.of("main"), enough, Share.WHOLE, Optional.empty(), true))
                        .nextReady())
                .isPresent();
        List<RunRow> claimed = claim(session, 10, enough, /* oldestFirst= */ false);
        assertThat(claimed).extracting(RunRow::id).containsExactly(needing.id());
        assertThat(claimed.get(0).needs()).isEqualTo(needing.needs());
    }

    @Test
    void whatOneSessionOwesNobodyElseIsGiven() {
        SessionRow owing = liveSession("quay-1");
        SessionRow other = liveSession("quay-2");
        RunRow run = needing(Needs.NOTHING.of(owing.id()));

        assertThat(waitingOnlyFor(owing)).containsExactly(run.id());
        assertThat(waitingOnlyFor(other)).isEmpty();
        assertThat(claim(other, 10, new Ability(Set.of(), Set.of(), Optional.of(other.id())), false))
                .isEmpty();
        assertThat(claim(owing, 10, new Ability(Set.of(), Set.of(), Optional.of(owing.id())), false))
                .hasSize(1);
        assertThat(waitingOnlyFor(owing)).isEmpty();
    }

    private List<Long> waitingOnlyFor(SessionRow session) {
        return store.transact(tx -> tx.waitingOnlyFor(session.id()));
    }

    @Test
    void thoseWhoHaveWaitedLongestMayBeAskedForWhateverTheirPriority() {
        long id = define(job("tide-tables").build(), past(10));
        SessionRow session = liveSession("quay-1");
        RunRow old = add(run(id, past(90), RunState.PLANNED, Optional.empty(), 0));
        RunRow older = add(run(id, past(80), RunState.PLANNED, Optional.empty(), 4));
        RunRow urgent = add(run(id, past(10), RunState.PLANNED, Optional.empty(), 9));

        assertThat(claim(session, 2, Ability.NONE, /* oldestFirst= */ true))
                .extracting(RunRow::id)
                .containsExactly(old.id(), older.id());
        assertThat(claim(session, 2, Ability.NONE, /* oldestFirst= */ true))
                .extracting(RunRow::id)
                .containsExactly(urgent.id());
    }

    @Test
    void progressIsShownWhileItsLeaseHolds() {
        long id = define(job("tide-tables").build(), past(10));
        SessionRow session = liveSession("quay-1");
        RunRow run = leased(id, past(10), session);
        LeaseKey lease = run.leaseKey();
        LeaseKey older = new LeaseKey(run.id(), lease.session(), lease.fence() - 1);

        progress(new ProgressNote(lease, 40, "half the buoys"));
        progress(new ProgressNote(older, 90, "from before"));

        assertThat(store.history().run(run.id()).orElseThrow().progress()).contains(new Progress(40, "half the buoys"));
        store.transact(tx -> tx.release(List.of(new RunRelease(
                lease,
                id,
                RunState.PLANNED,
                now(),
                List.of(ended(run, AttemptEnd.FAILED, Optional.of("x"))),
                Optional.empty()))));
        assertThat(store.history().run(run.id()).orElseThrow().progress()).isEmpty();
    }

    @Test
    void whatARunPrintsIsShownWhileItsLeaseHolds() {
        long id = define(job("tide-tables").build(), past(10));
        RunRow run = leased(id, past(10), liveSession("quay-1"));
        LeaseKey lease = run.leaseKey();
        LeaseKey older = new LeaseKey(run.id(), lease.session(), lease.fence() - 1);
        Output first = new Output("low water\n", 10, 0);
        Output second = new Output("high water \u2191\n", 30, 15);

        printed(new PrintedNote(lease, first));
        printed(new PrintedNote(older, second));
        assertThat(store.history().run(run.id()).orElseThrow().outputs()).isEqualTo(Map.of(run.attempt(), first));
        printed(new PrintedNote(lease, second));
        assertThat(store.history().run(run.id()).orElseThrow().outputs()).isEqualTo(Map.of(run.attempt(), second));

        store.transact(tx -> tx.release(List.of(new RunRelease(
                lease,
                id,
                RunState.PLANNED,
                now(),
                List.of(ended(run, AttemptEnd.FAILED, Optional.of("x"))),
                Optional.of(first)))));
        assertThat(store.history().run(run.id()).orElseThrow().outputs())
                .as("what it printed in all")
                .isEqualTo(Map.of(run.attempt(), first));
    }

    private void printed(PrintedNote note) {
        store.transact(tx -> {
            tx.printed(List.of(note));
            return null;
        });
    }

    private void progress(ProgressNote note) {
        store.transact(tx -> {
            tx.progress(List.of(note));
            return null;
        });
    }

    @Test
    void aRunIsLeftToThoseWhoKnowItsHandler() {
        SessionRow session = liveSession("quay-1");
        RunRow needing = needing(new Needs(Optional.of("tides"), List.of(), Optional.empty()));
        Store.Look look = new Store.Look(
                Set.of("main"), Ability.ofHandlers(Set.of("other")), Share.WHOLE, Optional.empty(), true);

        assertThat(claim(session, 10, Set.of())).isEmpty();
        assertThat(claim(session, 10, Set.of("other"))).isEmpty();
        assertThat(store.outlook(look).nextReady()).isEmpty();
        assertThat(claim(session, 10, Set.of("other", "tides")))
                .extracting(RunRow::id)
                .containsExactly(needing.id());
    }

    @Test
    void theOutlookTellsWhatIsDueWhatIsReadyAndWhatIsLeftOver() {
        Store.Look look = new Store.Look(Set.of("main"), Ability.NONE, Share.WHOLE, Optional.empty(), true);
        assertThat(store.outlook(look).nextDue()).isEmpty();
        assertThat(store.outlook(look).unsettled()).isFalse();
        assertThat(store.outlook(look).lapsed()).isFalse();

        Instant due = now().plusSeconds(100).truncatedTo(ChronoUnit.MICROS);
        long id = define(job("tide-tables").build(), due);
        RunRow waiting = add(run(id, past(10), RunState.PLANNED, Optional.empty(), 5));
        SessionRow dead = session("quay-9", past(1));
        RunRow run = leased(id, past(20), dead);
        end(run.leaseKey(), ended(run, AttemptEnd.SUCCEEDED, Optional.empty()));

        assertThat(store.outlook(look).nextDue()).contains(due);
        assertThat(store.outlook(look).nextReady()).contains(waiting.readyAt());
        assertThat(store.outlook(look).unsettled()).isTrue();
        assertThat(store.outlook(look).lapsed()).isTrue();
        assertThat(store.outlook(new Store.Look(Set.of("night"), Ability.NONE, Share.WHOLE, Optional.empty(), false))
                        .nextReady())
                .isEmpty();
    }

    @Test
    void anEndMovesTheRunToTheLedgerWithAllThatIsKnownOfIt() {
        long id = define(job("tide-tables").build(), past(10));
        RunRow run = leased(id, past(20), liveSession("quay-1"));
        Attempt last = ended(run, AttemptEnd.SUCCEEDED, Optional.empty());

        assertThat(end(run.leaseKey(), last)).containsExactly(run.leaseKey());

        RunView view = store.history().run(run.id()).orElseThrow();
        assertThat(view.outcome()).contains(Outcome.SUCCEEDED);
        assertThat(view.state()).isEmpty();
        assertThat(view.owed()).isEqualTo(run.owed());
        assertThat(view.attempts()).containsExactly(last);
        assertThat(view.result()).contains("done");
        assertThat(view.payload()).contains("{\"quay\":4}");
        assertThat(view.outputs().get(1)).extracting(Output::text).isEqualTo("naïve 🌫 output\n");
        assertThat(recorded(List.of(run.leaseKey()))).containsExactly(run.leaseKey());
    }

    @Test
    void anEndUnderAnOldFenceOrAnotherSessionIsRefused() {
        long id = define(job("tide-tables").build(), past(10));
        SessionRow session = liveSession("quay-1");
        RunRow run = leased(id, past(20), session);
        LeaseKey lease = run.leaseKey();
        Attempt last = ended(run, AttemptEnd.SUCCEEDED, Optional.empty());

        assertThat(end(new LeaseKey(run.id(), lease.session(), lease.fence() - 1), last))
                .isEmpty();
        assertThat(end(new LeaseKey(run.id(), UUID.randomUUID(), lease.fence()), last))
                .isEmpty();
        assertThat(store.history().run(run.id()).orElseThrow().state()).contains(RunState.RUNNING);
        assertThat(end(lease, last)).containsExactly(lease);
        assertThat(end(lease, last)).isEmpty();
    }

    @Test
    void anOldAndANewLeaseOfOneRunInOneBatchAreToldApart() {
        long id = define(job("tide-tables").build(), past(10));
        SessionRow session = liveSession("quay-1");
        RunRow first = leased(id, past(20), session);
        Attempt lost = ended(first, AttemptEnd.LOST, Optional.of("gone"));
        release(first, RunState.PLANNED, past(5), lost);
        RunRow second = claim(session, 1, Set.of()).get(0);
        Attempt last = ended(second, AttemptEnd.SUCCEEDED, Optional.empty());
        RunEnd stale = new RunEnd(
                first.leaseKey(),
                id,
                Outcome.SUCCEEDED,
                Optional.empty(),
                lost,
                Optional.of("stale"),
                Optional.empty(),
                true,
                first.owed().planned(),
                true);
        RunEnd fresh = new RunEnd(
                second.leaseKey(),
                id,
                Outcome.SUCCEEDED,
                Optional.empty(),
                last,
                Optional.of("fresh"),
                Optional.empty(),
                true,
                first.owed().planned(),
                true);

        assertThat(endAll(List.of(fresh, stale)).accepted()).containsExactly(second.leaseKey());
        RunView view = store.history().run(first.id()).orElseThrow();
        assertThat(view.result()).contains("fresh");
        assertThat(view.attempts()).containsExactly(lost, last);
    }

    @Test
    void aReleasedRunKeepsItsAttemptsAndIsClaimedUnderAHigherFence() {
        long id = define(job("tide-tables").build(), past(10));
        SessionRow session = liveSession("quay-1");
        RunRow run = leased(id, past(20), session);
        Attempt failed = ended(run, AttemptEnd.FAILED, Optional.of("exit code 3"));

        assertThat(release(run, RunState.BACKING_OFF, past(1), failed)).containsExactly(run.leaseKey());
        assertThat(release(run, RunState.BACKING_OFF, past(1), failed)).isEmpty();
        assertThat(recorded(List.of(run.leaseKey()))).containsExactly(run.leaseKey());
        RunRow again = claim(session, 1, Set.of()).get(0);
        assertThat(again.attempt()).isEqualTo(2);
        assertThat(again.attempts()).containsExactly(failed);
        assertThat(again.leaseKey().fence()).isGreaterThan(run.leaseKey().fence());
        assertThat(end(run.leaseKey(), failed)).isEmpty();
        assertThat(store.history().run(run.id()).orElseThrow().outputs().get(1))
                .extracting(Output::text)
                .isEqualTo("half done");
    }

    @Test
    void anEndIsSettledOnce() {
        long id = define(job("tide-tables").build(), past(10));
        RunRow run = leased(id, past(20), liveSession("quay-1"));
        end(run.leaseKey(), ended(run, AttemptEnd.SUCCEEDED, Optional.empty()));

        assertThat(unsettled(Set.of(run.id()), 10)).extracting(Settle::run).containsExactly(run.id());
        assertThat(unsettled(Set.of(), 10)).isEmpty();
    }

    @Test
    void heldRunsAreLetGoOldestFirst() {
        long id = define(job("tide-tables").build(), past(10));
        RunRow newer = add(run(id, past(10), RunState.WAITING, Optional.empty(), 5));
        RunRow older = add(run(id, past(20), RunState.WAITING, Optional.empty(), 5));
        SessionRow session = liveSession("quay-1");

        store.transact(tx -> {
            tx.lockJobsById(List.of(id));
            List<WaitingRun> held = tx.gates().waitingOf(List.of(id), 1);
            assertThat(held).extracting(WaitingRun::run).containsExactly(older.id());
            tx.letGo(List.of(older.id()), past(1));
            return null;
        });
        assertThat(claim(session, 10, Set.of())).extracting(RunRow::id).containsExactly(older.id());
        assertThat(store.history().run(newer.id()).orElseThrow().state()).contains(RunState.WAITING);
    }
}
