package dev.brume.insight.internal;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Brume;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.internal.duty.Settings;
import dev.brume.memory.MemoryStore;
import dev.brume.spi.LedgerLine;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** The engine's duties in virtual time: instances that share work, die, leave, and are busy for as long as it is said. */
class VirtualOfficeTest {
    private static final Instant NOON = Instant.parse("2026-05-04T12:00:30Z");
    private static final Duration LEASE = Duration.ofSeconds(30);

    private final VirtualTime time = new VirtualTime(NOON);
    private final List<LedgerLine> lines = new ArrayList<>();
    private final MemoryStore store = new MemoryStore(time, 5, lines::add, span -> {});
    private final Brume brume = Brume.on(store).instance("office").time(time).build();
    private Duration takes = Duration.ofSeconds(10);
    private final VirtualOffice office = new VirtualOffice(store, time, run -> Effort.of(takes), event -> {}, 7);

    @AfterEach
    void close() {
        brume.close();
    }

    private VirtualInstance start(String name, int workers) {
        return office.start(new Settings(
                name, "host", 1, Map.of(Job.MAIN_LANE, workers), LEASE, Duration.ofMinutes(1), Settings.BATCH));
    }

    private void define(Job.Builder job) {
        brume.define(job.program("true").build());
        office.look();
    }

    private void after(Duration passed) {
        office.advanceTo(NOON.plus(passed));
    }

    private List<RunView> runs(String job) {
        return brume.history().runs(RunFilter.newest(100).of(JobName.parse(job)));
    }

    @Test
    void workIsSpreadOverInstancesAndEachOccurrenceRunsOnce() {
        start("quay-1", 1);
        start("quay-2", 1);
        define(Job.named("tides").every(Duration.ofMinutes(1)));
        define(Job.named("lamps").every(Duration.ofMinutes(1)));

        after(Duration.ofMinutes(10).plusSeconds(20));

        assertThat(lines).hasSize(20).allMatch(line -> line.outcome() == Outcome.SUCCEEDED);
        assertThat(lines.stream().map(line -> line.attempts().get(0).instance()).distinct())
                .containsExactlyInAnyOrder("quay-1", "quay-2");
        assertThat(lines.stream()
                        .map(line -> line.owed().job() + " " + line.owed().planned())
                        .distinct())
                .hasSize(20);
        assertThat(runs("tides").size() + runs("lamps").size())
                .as("only the last five are kept")
                .isEqualTo(5);
    }

    @Test
    void whatADeadInstanceHeldIsTakenOverWhenItsLeaseIsOver() {
        takes = Duration.ofMinutes(5);
        VirtualInstance doomed = start("quay-1", 4);
        define(Job.named("lamps").every(Duration.ofHours(1)));
        after(Duration.ofMinutes(61));
        assertThat(doomed.attempts()).isEqualTo(1);
        doomed.die();
        start("quay-2", 4);

        after(Duration.ofMinutes(63));
        RunView taken = runs("lamps").get(0);
        assertThat(taken.attempts()).extracting(Attempt::instance).containsExactly("quay-1", "quay-2");
        assertThat(taken.attempts().get(0).end()).contains(AttemptEnd.LOST);
        assertThat(doomed.lives()).isFalse();
        after(Duration.ofMinutes(70));

        assertThat(lines)
                .singleElement()
                .satisfies(line -> assertThat(line.outcome()).isEqualTo(Outcome.SUCCEEDED));
    }

    @Test
    void whatALeavingInstanceWorksOnIsGivenBackAndRunsElsewhereAtOnce() {
        takes = Duration.ofMinutes(5);
        VirtualInstance leaving = start("quay-1", 4);
        define(Job.named("lamps").every(Duration.ofHours(1)));
        after(Duration.ofMinutes(61));
        leaving.leave();
        start("quay-2", 4);
        after(Duration.ofMinutes(61).plusSeconds(1));

        assertThat(runs("lamps").get(0).attempts())
                .extracting(Attempt::instance)
                .containsExactly("quay-1", "quay-2");
    }

    @Test
    void workIsCutOffAtItsTimeLimitAndWaitsForItsTurn() {
        takes = Duration.ofMinutes(3);
        start("quay-1", 4);
        define(Job.named("slow").every(Duration.ofMinutes(5)).timeLimit(Duration.ofMinutes(2)));
        define(Job.named("queue").every(Duration.ofMinutes(2)).ifBusy(IfBusy.waiting(2)));

        after(Duration.ofMinutes(12));

        assertThat(runs("slow").stream().filter(run -> run.outcome().isPresent()))
                .isNotEmpty()
                .allSatisfy(run -> assertThat(run.outcome()).contains(Outcome.TIMED_OUT));
        List<Instant> starts = lines.stream()
                .filter(line -> line.attempts().size() == 1 && line.outcome() == Outcome.SUCCEEDED)
                .map(line -> line.attempts().get(0).startedAt())
                .toList();
        for (int i = 1; i < starts.size(); i++) {
            assertThat(Duration.between(starts.get(i - 1), starts.get(i))).isGreaterThanOrEqualTo(takes);
        }
    }
}
