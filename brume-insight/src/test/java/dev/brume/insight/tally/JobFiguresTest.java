package dev.brume.insight.tally;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Job;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.history.JobAccount;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;

/** Figures of a job over a period. */
class JobFiguresTest {
    private static final Instant BEGIN = Instant.parse("2026-05-04T00:00:00Z");
    private static final Instant END = BEGIN.plus(Duration.ofHours(1));

    private static JobAccount.Line line(int second, Outcome outcome, int lateMillis, int tookMillis) {
        Instant planned = BEGIN.plusSeconds(second);
        boolean began = outcome != Outcome.SKIPPED;
        return new JobAccount.Line(
                second,
                planned,
                "",
                Origin.SCHEDULE,
                Optional.of(outcome),
                Optional.empty(),
                Optional.empty(),
                Optional.of(planned.plusMillis(lateMillis)).filter(at -> began),
                Optional.of(Duration.ofMillis(tookMillis)).filter(took -> began),
                Optional.of(planned.plusMillis(lateMillis + tookMillis)).filter(at -> began),
                false,
                Optional.empty(),
                Optional.empty());
    }

    private static JobFigures figures(Instant born, List<JobAccount.Line> lines) {
        Job job = Job.named("tides").program("true").build();
        JobAccount.Version version = new JobAccount.Version(1, job, born, "api");
        return JobFigures.of(
                new JobAccount(7, job.name(), false, List.of(version), Instant.EPOCH, END, lines, List.of(), List.of()),
                BEGIN,
                END);
    }

    @Test
    void percentilesAreOfTheNearestRank() {
        List<JobAccount.Line> lines = IntStream.rangeClosed(1, 200)
                .mapToObj(i -> line(i, i <= 150 ? Outcome.SUCCEEDED : Outcome.FAILED, 2 * i, 1000 + i))
                .toList();

        JobFigures figures = figures(BEGIN.minusSeconds(9), lines);

        assertThat(figures.took())
                .contains(new JobFigures.Percentiles(
                        Duration.ofMillis(1100), Duration.ofMillis(1180), Duration.ofMillis(1198)));
        assertThat(figures.late())
                .contains(new JobFigures.Percentiles(
                        Duration.ofMillis(200), Duration.ofMillis(360), Duration.ofMillis(396)));
        assertThat(figures.successShare()).contains(0.75);
        assertThat(figures.silence()).contains(Duration.between(BEGIN.plusMillis(150_300), END));
    }

    @Test
    void whatNeverBeganAndWhatLiesOutsideIsNotMixedIn() {
        JobFigures figures = figures(
                BEGIN.plusSeconds(600),
                List.of(
                        line(-1, Outcome.FAILED, 0, 1),
                        line(700, Outcome.SKIPPED, 0, 0),
                        line(800, Outcome.CANCELLED, 5, 7),
                        line(1000, Outcome.SUCCEEDED, 0, 3),
                        line(3600, Outcome.FAILED, 0, 1)));

        assertThat(figures.outcomes())
                .isEqualTo(Map.of(Outcome.SKIPPED, 1L, Outcome.CANCELLED, 1L, Outcome.SUCCEEDED, 1L));
        assertThat(figures.ended()).isEqualTo(2);
        assertThat(figures.successShare()).contains(1.0);
        assertThat(figures.silence()).contains(Duration.ofSeconds(2600));
        assertThat(figures(END, List.of()).silence()).isEmpty();
        assertThat(figures(BEGIN, List.of()).took()).isEmpty();
    }
}
