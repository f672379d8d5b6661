package dev.brume.insight.rehearsal;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.DefinitionSet;
import dev.brume.FollowUp;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.insight.rehearsal.Foresight.JobForesight;
import dev.brume.schedule.Note;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

/** What a rehearsal foresees, of definitions of which it is known what must come. */
class RehearsalTest {
    private static final Instant EVE = Instant.parse("2026-10-24T12:00:30Z");
    private static final Crew ONE = new Crew(1, Map.of(Job.MAIN_LANE, 2), Set.of());

    private Duration takes = Duration.ofSeconds(10);

    private Foresight rehearse(Crew crew, Duration length, Job.Builder... jobs) {
        DefinitionSet set = DefinitionSet.of(
                        "test",
                        Stream.of(jobs).map(job -> job.program("true").build()).toList())
                .withLimits(Map.of("crane", 1));
        return Rehearsal.of(set, crew, job -> List.of(takes), EVE, length);
    }

    private static JobForesight of(Foresight seen, String job) {
        return seen.jobs().stream()
                .filter(each -> each.name().equals(JobName.parse(job)))
                .findFirst()
                .orElseThrow();
    }

    @Test
    void whereThereIsRoomEverythingIsOnTime() {
        Foresight seen = rehearse(ONE, Duration.ofDays(1), Job.named("tides").every(Duration.ofHours(1)));

        JobForesight tides = of(seen, "tides");
        assertThat(tides.runs()).isEqualTo(24);
        assertThat(tides.isNotable()).isFalse();
        assertThat(tides.latest().orElseThrow()).isLessThan(Duration.ofMillis(5));
        assertThat(seen.lanes().get(0).most()).isEqualTo(1);
        assertThat(seen.lanes().get(0).share()).isBetween(0.0013, 0.0015);
    }

    @Test
    void overlapsAreSkippedOrWaitAsThePoliciesSay() {
        takes = Duration.ofMinutes(25);
        Foresight seen = rehearse(
                new Crew(2, Map.of(Job.MAIN_LANE, 8), Set.of()),
                Duration.ofHours(10),
                Job.named("skips").every(Duration.ofMinutes(20)),
                Job.named("waits").every(Duration.ofHours(2)).limit("crane"),
                Job.named("also").every(Duration.ofHours(2)).limit("crane"));

        JobForesight skips = of(seen, "skips");
        assertThat(skips.runs()).isEqualTo(15);
        assertThat(skips.skipped()).containsEntry("BUSY", 15L);
        List<JobForesight> crane = List.of(of(seen, "waits"), of(seen, "also"));
        assertThat(crane.stream().mapToLong(JobForesight::waited).sum()).isEqualTo(4);
        assertThat(crane.stream().mapToLong(JobForesight::busy).sum()).isEqualTo(4);
        assertThat(crane.stream().mapToLong(JobForesight::open).sum())
                .as("the last has not had its turn in the end")
                .isEqualTo(1);
        assertThat(crane.stream().map(job -> job.latest().orElseThrow()).max(Duration::compareTo))
                .hasValueSatisfying(latest -> assertThat(latest).isBetween(takes, takes.plusSeconds(1)));
    }

    @Test
    void tooFewWorkersMakeRunsLateAndLanesThatNobodyServesAreNamed() {
        takes = Duration.ofMinutes(4);
        Foresight seen = rehearse(
                ONE,
                Duration.ofHours(3),
                Job.named("a").cron("0 * * * *", "UTC"),
                Job.named("b").cron("0 * * * *", "UTC"),
                Job.named("c").cron("0 * * * *", "UTC").priority(1),
                Job.named("prints").cron("0 * * * *", "UTC").lane("printing"),
                Job.named("lifts").cron("0 * * * *", "UTC").requireLabel("crane"));

        JobForesight late = of(seen, "c");
        assertThat(late.waited()).isEqualTo(2);
        assertThat(late.open()).isEqualTo(1);
        assertThat(late.latest().orElseThrow()).isBetween(takes, takes.plusSeconds(1));
        assertThat(of(seen, "prints").want()).contains("nobody serves the lane printing");
        assertThat(of(seen, "lifts").want()).contains("nobody carries the labels crane");
        assertThat(of(seen, "prints").runs()).isZero();
        assertThat(of(seen, "prints").open()).isPositive();
        assertThat(seen.lanes().get(0).most()).isEqualTo(2);
        assertThat(seen.busiest().get(0).begun()).isEqualTo(2);
        assertThat(seen.busiest().get(0).running()).isEqualTo(2);
    }

    @Test
    void followUpsAndEachInstanceTakePartAndClockChangesAreListed() {
        Foresight seen = rehearse(
                new Crew(3, Map.of(Job.MAIN_LANE, 4), Set.of()),
                Duration.ofDays(1),
                Job.named("manifest").cron("30 1 * * *", "Europe/Lisbon").followUp(FollowUp.On.SUCCESS, "board"),
                Job.named("board"),
                Job.named("radio").cron("0 7 * * *", "UTC").onEachInstance());

        assertThat(of(seen, "manifest").runs()).isEqualTo(1);
        assertThat(of(seen, "board").runs()).isEqualTo(1);
        assertThat(of(seen, "radio").runs()).isEqualTo(3);
        assertThat(seen.touched())
                .containsExactly(new Foresight.Touched(
                        JobName.parse("manifest"), Instant.parse("2026-10-25T00:30:00Z"), Note.FIRST_OF_FOLD));
    }

    @Test
    void theSameIsForeseenEachTime() {
        Job.Builder[] jobs = {
            Job.named("a").every(Duration.ofMinutes(7)).ifBusy(IfBusy.alongside(2)),
            Job.named("b").every(Duration.ofMinutes(11)).limit("crane"),
            Job.named("c").every(Duration.ofMinutes(13)).limit("crane")
        };
        takes = Duration.ofMinutes(9);

        assertThat(rehearse(ONE, Duration.ofDays(1), jobs)).isEqualTo(rehearse(ONE, Duration.ofDays(1), jobs));
        assertThatThrownBy(() -> new Crew(0, Map.of("main", 1), Set.of())).hasMessageContaining("instances: 0");
        assertThatThrownBy(() -> new Crew(1, Map.of(), Set.of())).hasMessageContaining("lanes");
    }
}
