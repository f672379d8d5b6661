package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.history.LeaseKey;
import dev.brume.history.Pause;
import dev.brume.history.RunRow;
import dev.brume.history.Span;
import dev.brume.simulator.InvariantChecker;
import dev.brume.spi.LedgerLine;
import dev.brume.spi.RunEnd;
import dev.brume.spi.RunRelease;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.assertj.core.api.ThrowableAssert.ThrowingCallable;
import org.junit.jupiter.api.Test;

/** The checker bites: each promise, broken by hand, is noticed. */
class InvariantCheckerTest {
    private static final Instant T = Instant.parse("2026-11-23T10:00:00Z");
    private static final UUID SESSION = new UUID(1, 1);
    private static final UUID OTHER = new UUID(2, 2);

    private final InvariantChecker checker = new InvariantChecker(() -> 0, 0);

    private static RunRow run(long id, Instant planned, RunState state, Optional<RunRow.Lease> lease) {
        RunRow.Owed owed = RunRow.Owed.scheduled(7, planned, ZoneOffset.UTC);
        return RunRow.planned(id, owed).moved(state, planned, lease, List.of(), 1);
    }

    private static RunRow leased(long id, Instant planned, UUID session, long fence) {
        return run(id, planned, RunState.RUNNING, Optional.of(new RunRow.Lease(session, fence, T)));
    }

    private static Attempt attempt(LeaseKey lease, AttemptEnd end) {
        return new Attempt(
                1,
                "quay-1",
                lease.session(),
                lease.fence(),
                T,
                Optional.of(T),
                Optional.of(end),
                Optional.empty(),
                Optional.empty());
    }

    private static RunEnd end(LeaseKey lease) {
        return new RunEnd(
                lease,
                1,
                Outcome.SUCCEEDED,
                Optional.empty(),
                attempt(lease, AttemptEnd.SUCCEEDED),
                Optional.empty(),
                Optional.empty(),
                /* settles= */ true,
                T,
                /* notable= */ false);
    }

    private static RunRelease release(LeaseKey lease) {
        return new RunRelease(
                lease, 1, RunState.PLANNED, T, List.of(attempt(lease, AttemptEnd.LOST)), Optional.empty());
    }

    private void add(RunRow run) {
        checker.added(List.of(run), 10, T);
    }

    private static void breaks(String invariant, ThrowingCallable step) {
        assertThatThrownBy(step)
                .isInstanceOf(InvariantChecker.Violation.class)
                .hasMessageStartingWith(invariant + " is broken");
    }

    @Test
    void anOrderlyLifeBreaksNothing() {
        RunRow first = leased(1, T, SESSION, 5);
        add(first);
        checker.released(List.of(release(first.leaseKey())), Set.of(first.leaseKey()));
        RunRow second = leased(1, T, OTHER, 6);
        checker.leased(second);
        checker.ended(List.of(end(second.leaseKey())), Set.of(second.leaseKey()));

        assertThat(checker.endedRuns()).isEqualTo(1);
        assertThat(checker.takenOver()).isEqualTo(1);
        assertThat(checker.liveRuns()).isZero();
    }

    @Test
    void twoRunsForOneOccurrenceBreakI1() {
        add(run(1, T, RunState.PLANNED, Optional.empty()));

        breaks("I1", () -> add(run(2, T, RunState.PLANNED, Optional.empty())));
    }

    @Test
    void aRunAndASkippedLineForOneOccurrenceBreakI1() {
        RunRow run = run(1, T, RunState.PLANNED, Optional.empty());
        add(run);

        breaks(
                "I1",
                () -> checker.skipped(List.of(new LedgerLine(
                        2,
                        run.owed(),
                        1,
                        "main",
                        T,
                        Outcome.SKIPPED,
                        Optional.empty(),
                        List.of(),
                        Optional.empty(),
                        Optional.empty()))));
    }

    @Test
    void anEndedRunThatIsLeasedAgainBreaksI1() {
        RunRow run = leased(1, T, SESSION, 5);
        add(run);
        checker.ended(List.of(end(run.leaseKey())), Set.of(run.leaseKey()));

        breaks("I1", () -> checker.leased(leased(1, T, OTHER, 6)));
    }

    @Test
    void aSecondLeaseWhileTheFirstHoldsBreaksI2() {
        add(leased(1, T, SESSION, 5));

        breaks("I2", () -> checker.leased(leased(1, T, OTHER, 6)));
    }

    @Test
    void aFenceThatDoesNotRiseBreaksI2() {
        RunRow run = leased(1, T, SESSION, 5);
        add(run);
        checker.released(List.of(release(run.leaseKey())), Set.of(run.leaseKey()));

        breaks("I2", () -> checker.leased(leased(1, T, OTHER, 5)));
    }

    @Test
    void anAcceptedEndUnderAnOldLeaseBreaksI3() {
        RunRow old = leased(1, T, SESSION, 5);
        add(old);
        checker.released(List.of(release(old.leaseKey())), Set.of(old.leaseKey()));
        checker.leased(leased(1, T, OTHER, 6));

        breaks("I3", () -> checker.ended(List.of(end(old.leaseKey())), Set.of(old.leaseKey())));
    }

    @Test
    void overlappingSpansBreakI4() {
        checker.passedOver(List.of(new Span(7, 1, T, T.plusSeconds(10), T, T.plusSeconds(9), 2, "MISSED")));
        checker.passedOver(List.of(new Span(8, 1, T, T.plusSeconds(10), T, T.plusSeconds(9), 2, "MISSED")));

        breaks(
                "I4",
                () -> checker.passedOver(List.of(new Span(
                        7, 1, T.plusSeconds(9), T.plusSeconds(20), T.plusSeconds(9), T.plusSeconds(19), 2, "MISSED"))));
    }

    @Test
    void aRunMadeWithinAPlannedPauseBreaksIt() {
        Job job = Job.named("tides")
                .every(Duration.ofSeconds(1))
                .ifBusy(IfBusy.alongside(5))
                .program("true")
                .build();
        checker.defined(
                7,
                RunRow.planned(1, RunRow.Owed.scheduled(7, T, ZoneOffset.UTC)).version(),
                job,
                T.minusSeconds(1));
        checker.paused(Pause.Scope.EVERYTHING, T, T.plusSeconds(10));
        RunRow within = run(1, T.plusSeconds(5), RunState.PLANNED, Optional.empty());

        breaks("PAUSE", () -> checker.added(List.of(within), 1, T.plusSeconds(6)));
        checker.added(List.of(run(2, T.minusSeconds(1), RunState.PLANNED, Optional.empty())), 10, T.plusSeconds(6));
        checker.resumed(Pause.Scope.EVERYTHING, T.plusSeconds(6));
        checker.added(List.of(within), 10, T.plusSeconds(6));
    }

    @Test
    void moreUnfinishedRunsThanAllowedBreakI5() {
        checker.added(List.of(leased(1, T, SESSION, 5)), 1, T);
        checker.added(List.of(run(2, T.plusSeconds(1), RunState.WAITING, Optional.empty())), 1, T);

        breaks("I5", () -> checker.added(List.of(leased(3, T.plusSeconds(2), SESSION, 6)), 1, T));
        breaks("I5", () -> checker.letGo(List.of(2L), T));
    }

    @Test
    void aLeaseItsInstanceDoesNotKnowForLongBreaksI8() {
        RunRow run = leased(1, T, SESSION, 5);
        add(run);
        checker.checkMemory(SESSION, Set.of(), 1000, 500);
        checker.checkMemory(SESSION, Set.of(5L), 1400, 500);
        checker.checkMemory(SESSION, Set.of(), 1500, 500);
        checker.checkMemory(OTHER, Set.of(), 9000, 500);

        breaks("I8", () -> checker.checkMemory(SESSION, Set.of(), 2001, 500));
    }
}
