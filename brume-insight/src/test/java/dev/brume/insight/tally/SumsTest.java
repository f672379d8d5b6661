package dev.brume.insight.tally;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.history.JobAccount;
import dev.brume.history.JobAccount.Line;
import dev.brume.history.LineSums;
import dev.brume.history.Span;
import dev.brume.history.SummedHours;
import dev.brume.history.SummedStretch;
import dev.brume.history.Timeframe;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.SortedMap;
import java.util.SplittableRandom;
import java.util.TreeMap;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;

/** What is said of a job by the sums of its hours is what is said of it by its lines. */
class SumsTest {
    private static final Instant BEGIN = Instant.parse("2026-10-24T21:17:40Z");
    private static final Duration STEP = Duration.ofSeconds(40);
    private static final Job JOB = Job.named("tides")
            .every(STEP)
            .ifMissed(IfMissed.runLatest().tolerance(Duration.ofSeconds(5)))
            .program("true")
            .build();

    private static JobAccount account(List<Line> lines, List<Span> spans, List<SummedStretch> sums) {
        JobAccount.Version version = new JobAccount.Version(1, JOB, BEGIN.minusSeconds(90_000), "api");
        return new JobAccount(7, JOB.name(), false, List.of(version), Instant.EPOCH, Instant.MAX, lines, spans, sums);
    }

    /** A job's past. */
    private static final class Past {
        private final SplittableRandom random;
        private final Instant until;
        private final Timeframe frame;

        Past(long seed) {
            this.random = new SplittableRandom(seed);
            this.until = BEGIN.plusSeconds(10_000 + random.nextInt(20_000));
            this.frame = Timeframe.between(BEGIN, until).inSums();
        }

        private Line line(Instant planned, Outcome outcome, long lateMillis) {
            boolean began = outcome != Outcome.SKIPPED;
            return new Line(
                    planned.getEpochSecond(),
                    planned,
                    "",
                    random.nextInt(20) == 0 ? Origin.CATCH_UP : Origin.SCHEDULE,
                    Optional.of(outcome),
                    Optional.empty(),
                    Optional.empty(),
                    Optional.of(planned.plusMillis(lateMillis)).filter(at -> began),
                    Optional.of(Duration.ofMillis(1 + random.nextInt(90_000))).filter(took -> began),
                    Optional.empty(),
                    outcome == Outcome.LOST,
                    Optional.of("quay-1"),
                    Optional.empty());
        }

        /** What the schedule owed, in as much order as the chances leave it. */
        private List<Line> lines(int oddInThousand) {
            List<Line> lines = new ArrayList<>();
            Optional<Instant> planned = JOB.next(BEGIN.minusNanos(1)).map(each -> each.instant());
            while (planned.filter(until::isAfter).isPresent()) {
                Instant at = planned.get();
                boolean odd = random.nextInt(1000) < oddInThousand;
                switch (odd ? random.nextInt(5) : 5) {
                    case 0 -> lines.add(line(at, Outcome.SUCCEEDED, 5001 + random.nextInt(100_000)));
                    case 1 -> lines.add(line(at, Outcome.SKIPPED, 0));
                    case 2 -> lines.add(line(at.plusSeconds(1), Outcome.SUCCEEDED, 3));
                    case 3 -> lines.add(line(at.plusSeconds(2), Outcome.FAILED, 3));
                    case 4 -> {}
                    default ->
                        lines.add(line(
                                at, random.nextInt(9) == 0 ? Outcome.FAILED : Outcome.SUCCEEDED, random.nextInt(5001)));
                }
                planned = JOB.next(at).map(each -> each.instant());
            }
            return lines;
        }

        /** The same in sums; most lines were added in their order, some of them late. */
        private JobAccount summed(List<Line> lines) {
            SummedHours hours = SummedHours.of(frame, Instant.EPOCH).orElseThrow();
            List<Line> left = new ArrayList<>();
            List<Line> plain = new ArrayList<>();
            lines.forEach(line -> {
                boolean summed = hours.holds(line.planned()) && line.isPlain() && random.nextInt(300) > 0;
                (summed ? plain : left).add(line);
            });
            SortedMap<Instant, LineSums> sums = new TreeMap<>();
            while (!plain.isEmpty()) {
                List<Line> batch = new ArrayList<>(plain.subList(0, Math.min(plain.size(), 1 + random.nextInt(200))));
                batch.removeIf(line -> random.nextInt(2000) == 0);
                plain.removeAll(new HashSet<>(batch));
                Map<Instant, List<Line>> byHour =
                        batch.stream().collect(Collectors.groupingBy(line -> LineSums.hourOf(line.planned())));
                byHour.forEach((hour, some) -> sums.merge(hour, LineSums.of(some), LineSums::plus));
            }
            return account(left, List.of(), stretches(sums));
        }

        /** Some hours by themselves, some as one. */
        private List<SummedStretch> stretches(SortedMap<Instant, LineSums> hours) {
            List<SummedStretch> stretches = new ArrayList<>();
            for (Map.Entry<Instant, LineSums> hour : hours.entrySet()) {
                Instant end = hour.getKey().plusSeconds(3600);
                boolean together = !stretches.isEmpty()
                        && random.nextBoolean()
                        && stretches.get(stretches.size() - 1).until().equals(hour.getKey());
                if (together) {
                    SummedStretch before = stretches.remove(stretches.size() - 1);
                    stretches.add(
                            new SummedStretch(before.from(), end, before.sums().plus(hour.getValue())));
                } else {
                    stretches.add(new SummedStretch(hour.getKey(), end, hour.getValue()));
                }
            }
            return stretches;
        }
    }

    @Test
    void theTallyOfSumsIsThatOfTheLinesOrThereIsNone() {
        int decided = 0;
        for (long seed = 1; seed <= 120; seed++) {
            Past one = new Past(seed);
            List<Line> lines = one.lines(seed % 3 == 0 ? 0 : 4);
            JobTally byLines = Tally.of(account(lines, List.of(), List.of()), BEGIN, one.until);
            JobAccount summed = one.summed(lines);
            assertThat(summed.sums()).isNotEmpty();

            Optional<JobTally> bySums = Tally.ofSums(summed, BEGIN, one.until);

            if (seed % 3 == 0) {
                assertThat(bySums).as("seed " + seed).isPresent();
            }
            if (bySums.isPresent()) {
                decided++;
                assertThat(figures(bySums.get())).as("seed " + seed).isEqualTo(figures(byLines));
            }
        }
        assertThat(decided).isBetween(41, 119);
    }

    private static List<Object> figures(JobTally tally) {
        List<Object> figures = new ArrayList<>();
        for (Verdict verdict : Verdict.values()) {
            figures.add(verdict + " " + tally.count(verdict));
        }
        for (Outcome outcome : Outcome.values()) {
            figures.add(outcome + " " + tally.began(outcome));
        }
        figures.add(tally.outcomes());
        figures.add(tally.reasons());
        figures.add(tally.latest());
        figures.add(tally.takenOver());
        figures.add(tally.ordered());
        figures.add(tally.unruled().size());
        return figures;
    }

    @Test
    void figuresOfSumsAreThoseOfTheLines() {
        int decided = 0;
        for (long seed = 1; seed <= 120; seed++) {
            Past one = new Past(seed);
            List<Line> lines = one.lines(6);
            JobFigures byLines = JobFigures.of(account(lines, List.of(), List.of()), BEGIN, one.until);

            Optional<JobFigures> bySums = JobFigures.ofSums(one.summed(lines), BEGIN, one.until);

            if (bySums.isPresent()) {
                decided++;
                JobFigures found = bySums.get();
                assertThat(found.outcomes()).as("seed " + seed).isEqualTo(byLines.outcomes());
                assertThat(found.silence()).as("seed " + seed).isEqualTo(byLines.silence());
                assertThat(found.meanTook()).isEqualTo(byLines.meanTook());
                assertClose(found.took().orElseThrow(), byLines.took().orElseThrow());
                assertClose(found.late().orElseThrow(), byLines.late().orElseThrow());
            }
        }
        assertThat(decided).isBetween(80, 119);
    }

    private static void assertClose(JobFigures.Percentiles found, JobFigures.Percentiles precise) {
        List.of(
                        Map.entry(found.p50(), precise.p50()),
                        Map.entry(found.p90(), precise.p90()),
                        Map.entry(found.p99(), precise.p99()))
                .forEach(pair -> assertThat(pair.getKey().toNanos())
                        .isBetween(
                                pair.getValue().toNanos() * 98 / 100,
                                pair.getValue().toNanos() * 102 / 100));
    }

    /** Two wrongs do not make a right: a line that no rule owes does not stand for one that is missing. */
    @Test
    void whatIsMissingIsNotMadeUpForByWhatIsNotOwed() {
        Past one = new Past(1);
        List<Line> lines = one.lines(0);
        Line moved = lines.get(lines.size() / 2);
        List<Line> wrong = new ArrayList<>(lines);
        wrong.set(lines.size() / 2, one.line(moved.planned().plusSeconds(1), Outcome.SUCCEEDED, 0));
        wrong.sort(Comparator.comparing(Line::planned));

        assertThat(Tally.ofSums(one.summed(lines), BEGIN, one.until)).isPresent();
        assertThat(Tally.ofSums(one.summed(wrong), BEGIN, one.until)).isEmpty();
    }
}
