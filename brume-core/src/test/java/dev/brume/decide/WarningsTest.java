package dev.brume.decide;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Job;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.Days;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import org.junit.jupiter.api.Test;

/** What is allowed and will surprise people all the same. */
class WarningsTest {
    private static final Instant NOW = Instant.parse("2026-11-23T10:00:00Z");

    private static Job.Builder job() {
        return Job.named("bridge-closure").program("true");
    }

    @Test
    void anOrdinaryJobSurprisesNobody() {
        assertThat(Warnings.of(job().every(Duration.ofMinutes(5)).build(), NOW)).isEmpty();
        assertThat(Warnings.of(job().cron("0 0 1 1 *", "UTC").build(), NOW)).isEmpty();
    }

    @Test
    void aDateThatIsPastNeverRuns() {
        assertThat(Warnings.of(job().once(Instant.parse("2025-11-23T10:00:00Z")).build(), NOW))
                .containsExactly("'once: 2025-11-23T10:00:00Z' is already past, so it never runs");
    }

    @Test
    void aDateInAnotherYearMayBeAMistake() {
        assertThat(Warnings.of(job().once(Instant.parse("2028-05-14T06:00:00Z")).build(), NOW))
                .singleElement()
                .asString()
                .contains("due next in 537 days", "2028-05-14", "is the year right?");
        CronSchedule rare = CronSchedule.parse("0 0 29 2 MON", ZoneId.of("UTC")).withDays(Days.BOTH);
        assertThat(Warnings.of(job().schedule(rare).build(), NOW)).hasSize(1);
    }

    @Test
    void aJobWithoutAScheduleIsSaidToRunByHandOnlyAndADisabledOneIsLeftAlone() {
        assertThat(Warnings.of(job().build(), NOW)).containsExactly("has no schedule, so it never runs by itself");
        assertThat(Warnings.of(job().enabled(false).build(), NOW)).isEmpty();
    }
}
