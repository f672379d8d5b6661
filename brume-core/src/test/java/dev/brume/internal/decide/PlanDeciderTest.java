package dev.brume.internal.decide;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.IfBusy;
import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.Origin;
import dev.brume.Reason;
import dev.brume.history.AfterEnd;
import dev.brume.history.JobRow;
import dev.brume.history.NewestRuns;
import dev.brume.history.PauseMark;
import dev.brume.history.Span;
import dev.brume.internal.decide.Plan.Decision;
import dev.brume.internal.decide.Plan.Verdict;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.Test;

class PlanDeciderTest {
    private static Plan decide(Job job, JobRow row, Instant now) {
        return PlanDecider.decide(job, row, now, new Gates(Map.of(), () -> T));
    }

    private static final Instant T = Instant.parse("2026-11-23T10:00:00Z");

    private static Job.Builder everyTenSeconds() {
        return Job.named("tides").every(Duration.ofSeconds(10)).program("true");
    }

    private static JobRow row(Job job, Instant cursor, int used, int waiting) {
        return new JobRow(
                1,
                job.name(),
                3,
                "test",
                cursor,
                job.next(cursor).map(next -> next.instant()),
                used,
                job.ifBusy().places(),
                waiting,
                NewestRuns.NONE,
                Optional.empty(),
                false,
                PauseMark.NONE);
    }

    /** Decides until nothing is due any more, as planning does pass after pass. */
    private static List<Plan> planUntil(Job job, JobRow row, Instant now) {
        List<Plan> plans = new ArrayList<>();
        JobRow at = row;
        while (at.nextAt().filter(next -> !next.isAfter(now)).isPresent()) {
            Plan plan = decide(job, at, now);
            plans.add(plan);
            at = new JobRow(
                    1,
                    job.name(),
                    3,
                    "test",
                    plan.cursor(),
                    plan.nextAt(),
                    at.used() + count(plan, Verdict.START),
                    at.cap(),
                    at.waiting() + count(plan, Verdict.HOLD),
                    NewestRuns.NONE,
                    Optional.empty(),
                    false,
                    PauseMark.NONE);
        }
        return plans;
    }

    private static int count(Plan plan, Verdict verdict) {
        return (int) plan.decisions().stream()
                .filter(decision -> decision.verdict() == verdict)
                .count();
    }

    private static List<Decision> decisions(List<Plan> plans) {
        return plans.stream().flatMap(plan -> plan.decisions().stream()).toList();
    }

    @Test
    void whatIsDueOnTimeStartsAndTheCursorMovesToNow() {
        Job job = everyTenSeconds().build();
        Plan plan = decide(job, row(job, T.minusSeconds(5), 0, 0), T.plusSeconds(3));

        assertThat(plan.decisions()).singleElement().satisfies(decision -> {
            assertThat(decision.verdict()).isEqualTo(Verdict.START);
            assertThat(decision.occurrence().instant()).isEqualTo(T);
        });
        assertThat(plan.nextAt()).contains(T.plusSeconds(10));
        assertThat(plan.missed()).isEmpty();
    }

    @Test
    void aLongOutageOfSchedulesThatAreCountedOneByOneIsDecidedPieceByPiece() {
        Job job = Job.named("tides")
                .cron("*/2 * * * * *", "UTC")
                .every(Duration.ofSeconds(3))
                .handler("work")
                .build();
        JobRow row = row(job, T.minus(Duration.ofDays(3)), 0, 0);
        List<Plan> plans = planUntil(job, row, T);

        List<Span> spans =
                plans.stream().flatMap(plan -> plan.missed().stream()).toList();
        assertThat(spans).hasSizeGreaterThan(1);
        assertThat(spans).allSatisfy(span -> assertThat(span.count()).isLessThanOrEqualTo(40_001));
        for (int i = 1; i < spans.size(); i++) {
            assertThat(spans.get(i).first()).isAfter(spans.get(i - 1).last());
            assertThat(job.timeline()
                            .next(spans.get(i - 1).last())
                            .orElseThrow()
                            .instant())
                    .as("nothing lies between two of them")
                    .isEqualTo(spans.get(i).first());
        }
        long decided = decisions(plans).size();
        assertThat(spans.stream().mapToLong(Span::count).sum() + decided)
                .isEqualTo(job.timeline().count(row.cursor().plusNanos(1), T.plusNanos(1)));
    }

    @Test
    void tenYearsOfTwoDenseGridsLieInOneSpan() {
        Job job = Job.named("tides")
                .every(Duration.ofSeconds(1))
                .every(Duration.ofSeconds(2))
                .handler("work")
                .build();
        Plan plan = decide(job, row(job, T.minus(Duration.ofDays(3650)), 0, 0), T);

        assertThat(plan.missed().orElseThrow().count()).isEqualTo(3650L * 86_400 - 60 - 1);
    }

    @Test
    void aBusyJobSkipsWaitsOrRunsAlongsideAsItSays() {
        Job skipping = everyTenSeconds().build();
        assertThat(decide(skipping, row(skipping, T.minusSeconds(5), 1, 0), T).decisions())
                .extracting(Decision::verdict, Decision::reason)
                .containsExactly(org.assertj.core.groups.Tuple.tuple(Verdict.SKIP, Optional.of(Reason.BUSY)));

        Job waiting = everyTenSeconds().ifBusy(IfBusy.waiting(1)).build();
        Plan held = decide(waiting, row(waiting, T.minusSeconds(5), 1, 0), T);
        assertThat(held.decisions()).extracting(Decision::verdict).containsExactly(Verdict.HOLD);
        assertThat(decide(waiting, row(waiting, T.minusSeconds(5), 1, 1), T).decisions())
                .extracting(Decision::reason)
                .containsExactly(Optional.of(Reason.TOO_MANY_WAITING));

        Job alongside = everyTenSeconds().ifBusy(IfBusy.alongside(2)).build();
        assertThat(decide(alongside, row(alongside, T.minusSeconds(5), 1, 0), T).decisions())
                .extracting(Decision::verdict)
                .containsExactly(Verdict.START);
        assertThat(decide(alongside, row(alongside, T.minusSeconds(5), 2, 0), T).decisions())
                .extracting(Decision::verdict)
                .containsExactly(Verdict.SKIP);
    }

    @Test
    void afterAnOutageTheLatestRunsAndTheRestLieInOneSpan() {
        Job job = everyTenSeconds()
                .ifMissed(IfMissed.runLatest().tolerance(Duration.ofSeconds(1)))
                .build();
        Plan plan = decide(job, row(job, T.minusSeconds(105), 0, 0), T.minusSeconds(5));

        assertThat(plan.decisions()).singleElement().satisfies(decision -> {
            assertThat(decision.origin()).isEqualTo(Origin.CATCH_UP);
            assertThat(decision.occurrence().instant()).isEqualTo(T.minusSeconds(10));
        });
        Span span = plan.missed().orElseThrow();
        assertThat(span.count()).isEqualTo(9);
        assertThat(span.first()).isEqualTo(T.minusSeconds(100));
        assertThat(span.last()).isEqualTo(T.minusSeconds(20));
        assertThat(span.from()).isEqualTo(span.first());
        assertThat(span.until()).isAfter(span.last()).isBefore(T.minusSeconds(10));
        assertThat(span.version()).isEqualTo(3);
    }

    @Test
    void theLatestIsNotMadeUpForWhenOneIsOnTime() {
        Job job = everyTenSeconds()
                .ifMissed(IfMissed.runLatest().tolerance(Duration.ofSeconds(1)))
                .build();
        Plan plan = decide(job, row(job, T.minusSeconds(35), 0, 0), T);

        assertThat(plan.decisions()).extracting(Decision::origin).containsExactly(Origin.SCHEDULE);
        assertThat(plan.missed().orElseThrow().count()).isEqualTo(3);
    }

    @Test
    void eachMeansTheNewestFewOldestFirstAndTheyWaitRatherThanBeingSkipped() {
        Job job = everyTenSeconds()
                .ifMissed(IfMissed.runEach(3).tolerance(Duration.ofSeconds(1)))
                .build();
        Plan plan = decide(job, row(job, T.minusSeconds(105), 0, 0), T.minusSeconds(5));

        assertThat(plan.decisions())
                .extracting(decision -> decision.occurrence().instant())
                .containsExactly(T.minusSeconds(30), T.minusSeconds(20), T.minusSeconds(10));
        assertThat(plan.decisions())
                .extracting(Decision::verdict)
                .containsExactly(Verdict.START, Verdict.HOLD, Verdict.HOLD);
        assertThat(plan.missed().orElseThrow().count()).isEqualTo(7);
    }

    @Test
    void skipMakesUpForNothing() {
        Job job = everyTenSeconds()
                .ifMissed(IfMissed.skip().tolerance(Duration.ofSeconds(1)))
                .build();
        Plan plan = decide(job, row(job, T.minusSeconds(105), 0, 0), T.minusSeconds(5));

        assertThat(plan.decisions()).isEmpty();
        assertThat(plan.missed().orElseThrow().count()).isEqualTo(10);
    }

    @Test
    void whateverHappensEveryOccurrenceIsDecidedOnce() {
        for (IfMissed ifMissed : List.of(IfMissed.skip(), IfMissed.runEach(4), IfMissed.runLatest())) {
            Job job = everyTenSeconds()
                    .cron("*/15 * * * * *", "UTC")
                    .ifMissed(ifMissed.tolerance(Duration.ofSeconds(30)))
                    .ifBusy(IfBusy.waiting(2))
                    .build();
            List<Plan> plans = planUntil(job, row(job, T.minusSeconds(300), 0, 0), T);
            long spanned = plans.stream()
                    .flatMap(plan -> plan.missed().stream())
                    .mapToLong(Span::count)
                    .sum();
            List<Instant> single = decisions(plans).stream()
                    .map(decision -> decision.occurrence().instant())
                    .toList();

            // 30 of the grid and 20 of the expression, 10 of them shared.
            assertThat(single).doesNotHaveDuplicates().isSorted();
            assertThat(single.size() + spanned).isEqualTo(40);
        }
    }

    @Test
    void aClockThatStepsBackMovesNothingBack() {
        Job job = everyTenSeconds().build();
        Plan plan = decide(job, row(job, T, 0, 0), T.minusSeconds(3600));

        assertThat(plan.cursor()).isEqualTo(T);
        assertThat(plan.decisions()).isEmpty();
        assertThat(plan.nextAt()).contains(T.plusSeconds(10));
    }

    @Test
    void aDisabledJobOwesNothing() {
        Job job = everyTenSeconds().enabled(false).build();
        Plan plan = decide(job, row(job, T.minusSeconds(60), 0, 0), T);

        assertThat(plan.decisions()).isEmpty();
        assertThat(plan.nextAt()).isEmpty();
    }

    // Schedules that go by the ends of runs.

    private static JobRow chained(Job job, AfterEnd state, Instant cursor, int used) {
        return new JobRow(
                1,
                job.name(),
                3,
                "test",
                cursor,
                state.due(),
                used,
                job.ifBusy().places(),
                0,
                NewestRuns.NONE,
                Optional.of(state),
                false,
                PauseMark.NONE);
    }

    private static Job.Builder sweep() {
        return Job.named("sweep").afterEnd(Duration.ofMinutes(10)).program("true");
    }

    @Test
    void anOccurrenceAfterAnEndGetsARunAndItsEndIsAwaited() {
        Job job = sweep().build();
        Plan plan = decide(job, chained(job, AfterEnd.due(T), T.minusSeconds(60), 0), T.plusSeconds(1));

        assertThat(plan.decisions()).singleElement().satisfies(decision -> {
            assertThat(decision.occurrence().instant()).isEqualTo(T);
            assertThat(decision.verdict()).isEqualTo(Verdict.START);
        });
        assertThat(plan.endAwaited()).contains(T);
        assertThat(plan.afterEnd()).isEmpty();
        assertThat(plan.nextAt()).isEmpty();
    }

    @Test
    void beforeItIsDueNothingOfItIsDecided() {
        Job job = sweep().every(Duration.ofMinutes(1)).build();
        Plan plan = decide(job, chained(job, AfterEnd.due(T.plusSeconds(30)), T.minusSeconds(1), 0), T.plusSeconds(1));

        assertThat(plan.endAwaited()).isEmpty();
        assertThat(plan.nextAt()).contains(T.plusSeconds(30));
    }

    @Test
    void whereItIsSkippedTheChainGoesOnFromNow() {
        Job busy = sweep().build();
        Plan plan = decide(busy, chained(busy, AfterEnd.due(T), T.minusSeconds(60), 1), T.plusSeconds(1));

        assertThat(plan.decisions()).extracting(Decision::verdict).containsExactly(Verdict.SKIP);
        assertThat(plan.afterEnd()).contains(AfterEnd.due(T.plusSeconds(601)));
        assertThat(plan.nextAt()).contains(T.plusSeconds(601));
    }

    @Test
    void aLateOneIsCaughtUpOrSkippedWithALineOfItsOwnNeverASpan() {
        Instant late = T.plus(Duration.ofHours(2));
        Job latest = sweep().build();
        Plan caughtUp = decide(latest, chained(latest, AfterEnd.due(T), T.minusSeconds(60), 0), late);
        assertThat(caughtUp.decisions()).extracting(Decision::origin).containsExactly(Origin.CATCH_UP);
        assertThat(caughtUp.missed()).isEmpty();

        Job none = sweep().ifMissed(IfMissed.skip()).build();
        Plan skipped = decide(none, chained(none, AfterEnd.due(T), T.minusSeconds(60), 0), late);
        assertThat(skipped.decisions()).singleElement().satisfies(decision -> {
            assertThat(decision.verdict()).isEqualTo(Verdict.SKIP);
            assertThat(decision.reason()).contains(Reason.MISSED);
        });
        assertThat(skipped.missed()).isEmpty();
        assertThat(skipped.nextAt()).contains(late.plus(Duration.ofMinutes(10)));
    }

    @Test
    void anInstantThatItSharesWithARuleIsOwedOnce() {
        Job job = sweep().once(T).build();
        Plan plan = decide(job, chained(job, AfterEnd.due(T), T.minusSeconds(60), 0), T.plusSeconds(1));

        assertThat(plan.decisions()).hasSize(1);
        assertThat(plan.endAwaited()).contains(T);
    }

    @Test
    void aDefinitionThatEndsAfterYearsOfTwoPerSecondRulesLeavesThemUncounted() {
        Job job = Job.named("tides")
                .cron("0-59/2 * * * * *", "UTC")
                .cron("1-59/3 * * * * *", "UTC")
                .program("true")
                .build();
        Instant now = T.plus(Duration.ofDays(3653));
        Plan plan = PlanDecider.decideAll(job, row(job, T, 0, 0), now, new Gates(Map.of(), () -> T));

        assertThat(plan.decisions()).isEmpty();
        assertThat(plan.cursor()).isEqualTo(now);
        assertThat(plan.missed()).hasValueSatisfying(span -> {
            assertThat(span.reason()).isEqualTo(Reason.UNCOUNTED.name());
            assertThat(span.until()).isAfter(now);
        });
    }

    @Test
    void yearsOfTwoPerSecondRulesAreCountedInShortPieces() {
        Job job = Job.named("tides")
                .cron("0-59/2 * * * * *", "Europe/Lisbon")
                .cron("1-59/3 * * * * *", "Asia/Kolkata")
                .ifMissed(IfMissed.skip())
                .program("true")
                .build();
        Instant now = T.plus(Duration.ofDays(3653));
        Instant cursor = T;
        long missed = 0;
        int pieces = 0;
        for (Plan plan = decide(job, row(job, cursor, 0, 0), now);
                plan.missed().isPresent();
                plan = decide(job, row(job, cursor, 0, 0), now)) {
            missed += plan.missed().get().count();
            assertThat(plan.missed().get().first()).isAfter(cursor);
            cursor = plan.missed().get().last();
            pieces++;
        }

        assertThat(pieces).isBetween(30, 40);
        assertThat(missed).isEqualTo((Duration.ofDays(3653).toMinutes() - 1) * 40 - 1);
    }

    @Test
    void yearsOfMissedSecondsAreCountedAndNotLookedAtOneByOne() {
        Job job = Job.named("tides")
                .every(Duration.ofSeconds(1))
                .ifMissed(IfMissed.runEach(3))
                .program("true")
                .build();
        Instant cursor = T.minus(Duration.ofDays(3650));
        Plan plan = decide(job, row(job, cursor, 0, 0), T);

        assertThat(plan.missed().orElseThrow().count())
                .isEqualTo(Duration.ofDays(3650).toSeconds() - 60 - 3 - 1);
        assertThat(plan.missed().orElseThrow().first()).isEqualTo(cursor.plusSeconds(1));
        assertThat(plan.decisions()).hasSize(4);
    }

    @Test
    void whatIsOlderThanTheJobAllowsIsNotRunLate() {
        Job job = Job.named("tides")
                .cron("0 * * * *", "UTC")
                .ifMissed(IfMissed.runEach(10).oldest(Duration.ofHours(3)))
                .ifBusy(IfBusy.alongside(20))
                .program("true")
                .build();
        Instant now = T.plus(Duration.ofMinutes(30));
        Plan plan = decide(job, row(job, T.minus(Duration.ofHours(20)), 0, 0), now);

        assertThat(plan.decisions())
                .extracting(decision -> decision.occurrence().instant())
                .containsExactly(T.minus(Duration.ofHours(2)), T.minus(Duration.ofHours(1)), T);
        assertThat(plan.missed().orElseThrow().count()).isEqualTo(17);
        assertThat(plan.missed().orElseThrow().last()).isEqualTo(T.minus(Duration.ofHours(3)));
        assertThat(plan.missed().orElseThrow().reason()).isEqualTo(Reason.MISSED.name());
    }

    @Test
    void whatWasPausedIsDecidedAsMissedAndSaysSo() {
        Job job = Job.named("tides")
                .cron("0 * * * *", "UTC")
                .ifBusy(IfBusy.alongside(20))
                .program("true")
                .build();
        JobRow row = row(job, T.minus(Duration.ofHours(5)), 0, 0);
        Instant now = T.plus(Duration.ofMinutes(30));

        JobRow paused = row.with(new PauseMark(PauseMark.State.PAUSED, Optional.empty()));
        Plan meanwhile = PlanDecider.decideAll(job, paused, now, new Gates(Map.of(), () -> T));
        assertThat(meanwhile.decisions()).isEmpty();
        assertThat(meanwhile.missed().orElseThrow().count()).isEqualTo(5);
        assertThat(meanwhile.missed().orElseThrow().reason()).isEqualTo(Reason.PAUSED.name());

        Plan afterwards = PlanDecider.decideUntilTurn(job, paused, now, now, new Gates(Map.of(), () -> T));
        assertThat(afterwards.decisions())
                .singleElement()
                .satisfies(decision -> assertThat(decision.origin()).isEqualTo(Origin.CATCH_UP));
        assertThat(afterwards.missed().orElseThrow().count()).isEqualTo(4);
        assertThat(afterwards.missed().orElseThrow().reason()).isEqualTo(Reason.PAUSED.name());
    }

    @Test
    void whatIsOwedUpToATurnIsDecidedHoweverLateTheTurnIsMade() {
        Job job = Job.named("tides").cron("0 * * * *", "UTC").program("true").build();
        JobRow row = row(job, T.minus(Duration.ofHours(5)), 0, 0);
        Instant turn = T.minus(Duration.ofHours(2));
        Instant last = turn.minus(1, ChronoUnit.MICROS);

        Plan before = PlanDecider.decideUntilTurn(job, row, T, last, new Gates(Map.of(), () -> T));
        assertThat(before.cursor()).isEqualTo(last);
        assertThat(before.nextAt()).contains(turn);
        assertThat(before.decisions())
                .extracting(decision -> decision.occurrence().instant())
                .containsExactly(turn.minus(Duration.ofHours(1)));

        JobRow leftOut = row.with(new PauseMark(PauseMark.State.LEFT_OUT, Optional.of(turn)));
        Plan without = PlanDecider.decideUntilTurn(job, leftOut, T, last, new Gates(Map.of(), () -> T));
        assertThat(without.decisions()).isEmpty();
        assertThat(without.missed().orElseThrow().count()).isEqualTo(2);
        assertThat(without.missed().orElseThrow().reason()).isEqualTo(Reason.PAUSED.name());
    }

    @Test
    void aNewerOccurrenceSupersedesAndWaitsUntilTheEarlierRunHasEnded() {
        Job job = everyTenSeconds().ifBusy(IfBusy.supersede()).build();
        Plan first = decide(job, row(job, T, 0, 0), T.plusSeconds(10));
        Plan second = decide(job, row(job, T, 1, 0), T.plusSeconds(10));

        assertThat(first.supersedes()).isFalse();
        assertThat(first.decisions())
                .singleElement()
                .satisfies(decision -> assertThat(decision.verdict()).isEqualTo(Verdict.START));
        assertThat(second.supersedes()).isTrue();
        assertThat(second.decisions())
                .singleElement()
                .satisfies(decision -> assertThat(decision.verdict()).isEqualTo(Verdict.HOLD));
    }

    @Test
    void whatARuleMissedIsNotOwedAgainAfterAnEndAndWhatLiesBetweenIs() {
        Job job = sweep().every(Duration.ofSeconds(10))
                .ifMissed(IfMissed.runLatest().tolerance(Duration.ofSeconds(1)))
                .build();
        Instant now = T.minusSeconds(5);
        Plan same = decide(job, chained(job, AfterEnd.due(T.minusSeconds(50)), T.minusSeconds(105), 0), now);
        Plan between = decide(job, chained(job, AfterEnd.due(T.minusSeconds(45)), T.minusSeconds(105), 0), now);

        assertThat(same.decisions())
                .extracting(decision -> decision.occurrence().instant())
                .containsExactly(T.minusSeconds(10));
        assertThat(between.decisions())
                .extracting(decision -> decision.occurrence().instant())
                .containsExactly(T.minusSeconds(10), T.minusSeconds(45));
        assertThat(same.missed().orElseThrow().count()).isEqualTo(9);
        assertThat(between.missed().orElseThrow().count()).isEqualTo(9);
    }

    @Test
    void whereAllIsPassedOverTheSpanReachesFromTheFirstToTheLast() {
        Job job = everyTenSeconds()
                .ifMissed(IfMissed.skip().tolerance(Duration.ofSeconds(1)))
                .build();
        Span span = decide(job, row(job, T.minusSeconds(105), 0, 0), T.minusSeconds(5))
                .missed()
                .orElseThrow();

        assertThat(span.first()).isEqualTo(T.minusSeconds(100));
        assertThat(span.last()).isEqualTo(T.minusSeconds(10));
        assertThat(span.count()).isEqualTo(10);
    }

    @Test
    void aRunMayNotBeginOnceItsLimitIsReached() {
        Job job = everyTenSeconds()
                .startWithin(Duration.ofMinutes(1))
                .ifMissed(IfMissed.runLatest().tolerance(Duration.ofMinutes(10)))
                .build();

        assertThat(PlanDecider.isTooLate(job, T, T.plusSeconds(60).minusNanos(1)))
                .isFalse();
        assertThat(PlanDecider.isTooLate(job, T, T.plusSeconds(60))).isTrue();
        assertThat(PlanDecider.isTooLate(everyTenSeconds().build(), T, T.plusSeconds(3600)))
                .isFalse();
        assertThat(decide(job, row(job, T.minusSeconds(1), 0, 0), T.plusSeconds(65))
                        .decisions())
                .first()
                .satisfies(first -> {
                    assertThat(first.verdict()).isEqualTo(Verdict.SKIP);
                    assertThat(first.reason()).contains(Reason.TOO_LATE);
                });
    }
}
