package dev.brume.insight.tally;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.RunState;
import dev.brume.history.JobAccount;
import dev.brume.history.Span;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;

/** What was owed against what is on record. */
class TallyTest {
    private static final Instant BEGIN = Instant.parse("2026-05-04T00:00:00Z");
    private static final Duration TOLERANCE = Duration.ofSeconds(60);

    private static Job every(int seconds) {
        return Job.named("tides")
                .every(Duration.ofSeconds(seconds))
                .ifMissed(IfMissed.runLatest().tolerance(TOLERANCE))
                .program("true")
                .build();
    }

    private static JobAccount account(
            List<JobAccount.Version> versions, Instant cursor, List<JobAccount.Line> lines, List<Span> spans) {
        return new JobAccount(
                7, versions.get(0).job().name(), false, versions, Instant.EPOCH, cursor, lines, spans, List.of());
    }

    private static JobAccount.Line line(Instant planned, Outcome outcome, String reason, Duration late) {
        return new JobAccount.Line(
                planned.getEpochSecond(),
                planned,
                "",
                Origin.SCHEDULE,
                Optional.ofNullable(outcome),
                outcome == null ? Optional.of(RunState.PLANNED) : Optional.empty(),
                Optional.ofNullable(reason),
                Optional.ofNullable(late).map(planned::plus),
                Optional.empty(),
                Optional.empty(),
                outcome == Outcome.LOST,
                Optional.of("quay-1"),
                Optional.empty());
    }

    /** Whatever becomes of each second's occurrence, the tally counts it so, whichever versions were in force. */
    @Test
    void itCountsWhatANaiveOneCounts() {
        for (long seed = 1; seed <= 300; seed++) {
            SplittableRandom random = new SplittableRandom(seed);
            List<JobAccount.Version> versions = new ArrayList<>();
            Instant after = BEGIN.minusSeconds(random.nextInt(500));
            for (int number = 1; number <= 1 + random.nextInt(3); number++) {
                versions.add(new JobAccount.Version(number, every(1 + random.nextInt(20)), after, "api"));
                after = after.plusMillis(1 + random.nextInt(900_000));
            }
            Instant cursor = BEGIN.plusSeconds(random.nextInt(3000));
            Instant until = BEGIN.plusSeconds(1 + random.nextInt(3000));
            Map<Verdict, Long> naive = new EnumMap<>(Verdict.class);
            List<JobAccount.Line> lines = new ArrayList<>();
            List<Span> spans = new ArrayList<>();
            for (Instant second = BEGIN; second.isBefore(until); second = second.plusSeconds(1)) {
                if (isOwed(versions, second)) {
                    Verdict verdict = become(random, second, cursor, lines, spans);
                    naive.merge(verdict, 1L, Long::sum);
                }
            }

            JobTally tally = Tally.of(account(versions, cursor, lines, spans), BEGIN, until);

            for (Verdict verdict : Verdict.values()) {
                assertThat(tally.count(verdict))
                        .as("seed %s: %s", seed, verdict)
                        .isEqualTo(naive.getOrDefault(verdict, 0L));
            }
            assertThat(tally.expected())
                    .isEqualTo(
                            naive.values().stream().mapToLong(Long::longValue).sum());
            assertThat(tally.unruled()).isEmpty();
            assertThat(tally.wrongSpans()).isEmpty();
        }
    }

    private static boolean isOwed(List<JobAccount.Version> versions, Instant second) {
        Optional<JobAccount.Version> inForce = versions.stream()
                .filter(version -> version.after().isBefore(second))
                .reduce((a, b) -> b);
        return inForce.filter(version -> second.getEpochSecond()
                                % version.job()
                                        .schedules()
                                        .get(0)
                                        .smallestInterval()
                                        .toSeconds()
                        == 0)
                .isPresent();
    }

    private static Verdict become(
            SplittableRandom random, Instant second, Instant cursor, List<JobAccount.Line> lines, List<Span> spans) {
        switch (random.nextInt(6)) {
            case 0 -> {
                lines.add(line(second, Outcome.SUCCEEDED, null, TOLERANCE));
                return Verdict.ON_TIME;
            }
            case 1 -> {
                lines.add(line(second, Outcome.FAILED, null, TOLERANCE.plusMillis(1)));
                return Verdict.LATE;
            }
            case 2 -> {
                lines.add(line(second, Outcome.SKIPPED, Reason.BUSY.name(), null));
                return Verdict.SKIPPED;
            }
            case 3 -> {
                lines.add(line(second, null, null, null));
                return Verdict.WAITING;
            }
            case 4 -> {
                spans.add(new Span(
                        7, 1, second, second.plus(1, ChronoUnit.MICROS), second, second, 1, Reason.MISSED.name()));
                return Verdict.MISSED;
            }
            default -> {
                return second.isAfter(cursor) ? Verdict.NOT_YET : Verdict.UNEXPLAINED;
            }
        }
    }

    @Test
    void whatNoRuleOwesAndSpansThatCountWrongAreNamed() {
        JobAccount.Version version = new JobAccount.Version(1, every(60), BEGIN.minusSeconds(1), "api");
        Span wrong = new Span(
                7,
                1,
                BEGIN.plusSeconds(60),
                BEGIN.plusSeconds(121),
                BEGIN.plusSeconds(60),
                BEGIN.plusSeconds(120),
                5,
                Reason.PAUSED.name());
        List<JobAccount.Line> lines = List.of(
                line(BEGIN, Outcome.SUCCEEDED, null, Duration.ZERO),
                line(BEGIN.plusSeconds(7), Outcome.SUCCEEDED, null, Duration.ZERO));

        JobTally tally = Tally.of(
                account(List.of(version), BEGIN.plusSeconds(200), lines, List.of(wrong)),
                BEGIN,
                BEGIN.plusSeconds(180));

        assertThat(tally.unruled()).extracting(JobAccount.Line::planned).containsExactly(BEGIN.plusSeconds(7));
        assertThat(tally.wrongSpans()).singleElement().asString().contains("says 5, and the rules owe 2");
        assertThat(tally.count(Verdict.MISSED)).as("a pause is no miss").isZero();
        assertThat(tally.isClean()).isFalse();
    }
}
