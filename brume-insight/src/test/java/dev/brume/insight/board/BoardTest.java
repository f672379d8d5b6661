package dev.brume.insight.board;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.history.JobAccount;
import dev.brume.history.LineSums;
import dev.brume.history.Span;
import dev.brume.history.SummedStretch;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;

/** What became of occurrences, cell by cell. */
class BoardTest {
    private static final Instant BEGIN = Instant.parse("2026-05-04T00:00:00Z");
    private static final Instant NOW = BEGIN.plus(Duration.ofHours(24));
    private static final JobName TIDES = JobName.parse("harbour/tides");

    private static Job every(Duration interval) {
        return Job.named(TIDES).every(interval).program("true").build();
    }

    private static JobAccount.Line line(Instant planned, Outcome outcome, Duration late) {
        boolean live = outcome == null;
        return new JobAccount.Line(
                planned.getEpochSecond(),
                planned,
                "",
                Origin.SCHEDULE,
                Optional.ofNullable(outcome),
                live ? Optional.of(RunState.RUNNING) : Optional.empty(),
                Optional.empty(),
                outcome == Outcome.SKIPPED ? Optional.empty() : Optional.of(planned.plus(late)),
                live ? Optional.empty() : Optional.of(Duration.ofSeconds(1)),
                live ? Optional.empty() : Optional.of(planned.plus(late).plusSeconds(1)),
                outcome == Outcome.LOST,
                Optional.of("quay-1"),
                Optional.empty());
    }

    private static JobAccount account(
            Job job, List<JobAccount.Line> lines, List<Span> spans, List<SummedStretch> sums) {
        return new JobAccount(
                7,
                TIDES,
                false,
                List.of(new JobAccount.Version(1, job, Instant.EPOCH, "api")),
                Instant.EPOCH,
                NOW,
                lines,
                spans,
                sums);
    }

    private static Scale scale(Duration cell) {
        return new Scale(BEGIN, NOW, NOW.plus(Duration.ofHours(12)), cell);
    }

    private static List<JobAccount.Line> lines(SplittableRandom random, Duration interval) {
        List<JobAccount.Line> lines = new ArrayList<>();
        for (Instant at = BEGIN; at.isBefore(NOW); at = at.plus(interval)) {
            int draw = random.nextInt(40);
            Outcome outcome = draw == 0
                    ? Outcome.FAILED
                    : draw == 1 ? Outcome.CANCELLED : draw == 2 ? Outcome.LOST : Outcome.SUCCEEDED;
            lines.add(line(at, outcome, Duration.ofMillis(random.nextInt(2_000))));
        }
        return lines;
    }

    /** An hour's sums in place of its lines, but for those that are not plain. */
    private static JobAccount summed(Job job, List<JobAccount.Line> lines) {
        List<SummedStretch> sums = new ArrayList<>();
        for (Instant hour = BEGIN; hour.isBefore(NOW); hour = hour.plus(Duration.ofHours(1))) {
            Instant from = hour;
            Instant until = hour.plus(Duration.ofHours(1));
            sums.add(new SummedStretch(
                    from,
                    until,
                    LineSums.of(lines.stream()
                            .filter(line -> !line.planned().isBefore(from)
                                    && line.planned().isBefore(until))
                            .toList())));
        }
        return account(job, List.of(), List.of(), sums);
    }

    private static Map<Fate, Long> fates(BoardRow row) {
        Map<Fate, Long> all = new EnumMap<>(Fate.class);
        row.cells().forEach(cell -> cell.fates().forEach((fate, count) -> all.merge(fate, count, Long::sum)));
        return all;
    }

    @Test
    void sumsAndLinesComeToTheSameInCellsOfAnHour() {
        for (long seed = 1; seed <= 50; seed++) {
            Duration interval =
                    Duration.ofMinutes(List.of(1, 2, 3, 5, 10, 15, 30).get((int) (seed % 7)));
            List<JobAccount.Line> lines = lines(new SplittableRandom(seed), interval);
            Job job = every(interval);
            Scale hours = scale(Duration.ofHours(1));
            BoardRow byLines =
                    Board.row(account(job, lines, List.of(), List.of()), hours).orElseThrow();
            BoardRow bySums = Board.row(summed(job, lines), hours).orElseThrow();
            assertThat(bySums.cells().stream().map(BoardCell::fates).toList())
                    .as("seed %s", seed)
                    .isEqualTo(byLines.cells().stream().map(BoardCell::fates).toList());
            assertThat(fates(byLines).values().stream()
                            .mapToLong(Long::longValue)
                            .sum())
                    .isEqualTo(byLines.tally().expected());
        }
    }

    @Test
    void whereSumsDoNotTellEnoughTheLinesAreAskedFor() {
        Job job = every(Duration.ofMinutes(10));
        List<JobAccount.Line> good = new ArrayList<>();
        for (Instant at = BEGIN; at.isBefore(NOW); at = at.plus(Duration.ofMinutes(10))) {
            good.add(line(at, Outcome.SUCCEEDED, Duration.ZERO));
        }
        Scale minutes = scale(Duration.ofMinutes(30));
        assertThat(Board.row(summed(job, good), minutes).orElseThrow().cells()).hasSize(48);
        good.set(20, line(good.get(20).planned(), Outcome.FAILED, Duration.ZERO));
        assertThat(Board.row(summed(job, good), minutes)).isEmpty();
        assertThat(fates(Board.row(account(job, good, List.of(), List.of()), minutes)
                        .orElseThrow()))
                .isEqualTo(Map.of(Fate.RAN, 143L, Fate.FAILED, 1L));
    }

    @Test
    void eachFateIsTold() {
        Job job = every(Duration.ofHours(4));
        List<JobAccount.Line> lines = List.of(
                line(BEGIN, Outcome.SUCCEEDED, Duration.ZERO),
                line(BEGIN.plus(Duration.ofHours(4)), Outcome.SUCCEEDED, Duration.ofHours(1)),
                line(BEGIN.plus(Duration.ofHours(8)), Outcome.SKIPPED, Duration.ZERO),
                line(BEGIN.plus(Duration.ofHours(16)), Outcome.LOST, Duration.ofHours(1)),
                line(BEGIN.plus(Duration.ofHours(20)), null, Duration.ZERO));
        BoardRow row = Board.row(account(job, lines, List.of(), List.of()), scale(Duration.ofMinutes(30)))
                .orElseThrow();
        assertThat(row.cells().stream().map(BoardCell::worst).toList())
                .containsExactly(Fate.RAN, Fate.LATE, Fate.SKIPPED, Fate.UNEXPLAINED, Fate.FAILED, Fate.RUNNING);
        assertThat(row.cells().get(1).lateBy()).isEqualTo(3_600);
        assertThat(row.cells().get(4).takenOver()).isEqualTo(1);
        assertThat(row.cells().get(0).run()).contains(BEGIN.getEpochSecond());
    }

    @Test
    void whatIsComingIsCountedHoweverOftenItComes() {
        Scale hours = scale(Duration.ofHours(1));
        List<BoardCell> dense = Board.coming(every(Duration.ofSeconds(1)), NOW, /* paused= */ false, hours);
        assertThat(dense).hasSize(12);
        assertThat(dense.stream().mapToLong(BoardCell::count).sum()).isEqualTo(12 * 3_600 - 1);
        List<BoardCell> sparse = Board.coming(every(Duration.ofHours(6)), NOW, /* paused= */ true, hours);
        assertThat(sparse).singleElement().satisfies(cell -> {
            assertThat(cell.first()).isEqualTo(NOW.plus(Duration.ofHours(6)));
            assertThat(cell.worst()).isEqualTo(Fate.PAUSED);
        });
    }
}
