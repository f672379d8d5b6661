package dev.brume.insight.check;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Job;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.Test;

class PileUpsTest {
    private static final Instant NOW = Instant.parse("2026-11-23T10:20:00Z");

    private static Job job(String name, String cron) {
        return Job.named(name).cron(cron, "UTC").program("true").build();
    }

    private static List<Job> hourly(int count) {
        List<Job> jobs = new ArrayList<>();
        for (int i = 0; i < count; i++) {
            jobs.add(job("job-" + i, "@hourly"));
        }
        return jobs;
    }

    @Test
    void fewJobsOnASecondAreNoPileUp() {
        assertThat(PileUps.of(hourly(PileUps.MANY - 1), NOW)).isEmpty();
        assertThat(PileUps.of(List.of(), NOW)).isEmpty();
    }

    @Test
    void manyAreOneHoweverOftenTheyMeet() {
        assertThat(PileUps.of(hourly(7), NOW)).singleElement().satisfies(pileUp -> {
            assertThat(pileUp.at()).isEqualTo("2026-11-23T11:00:00Z");
            assertThat(pileUp.jobs()).hasSize(7);
            assertThat(pileUp.times()).isEqualTo(7 * 24);
            assertThat(pileUp.sentence())
                    .startsWith("7 jobs are due on the same second, 2026-11-23T11:00:00Z and on 167 more occasions")
                    .contains("job-0, job-1, job-2, job-3, job-4 and 2 more")
                    .endsWith("add spread: 10m to those that need not be punctual");
        });
    }

    @Test
    void whatJoinsThemNowAndThenIsTheSamePileUp() {
        List<Job> jobs = hourly(6);
        jobs.add(job("noon", "0 12 * * *"));
        jobs.add(job("evening", "0 18 * * *"));

        assertThat(PileUps.of(jobs, NOW))
                .singleElement()
                .satisfies(pileUp -> assertThat(pileUp.jobs()).hasSize(6));
    }

    @Test
    void othersAreTheirOwn() {
        List<Job> jobs = hourly(5);
        for (int i = 0; i < 5; i++) {
            jobs.add(job("nightly-" + i, "30 2 * * *"));
        }

        assertThat(PileUps.of(jobs, NOW))
                .extracting(PileUps.PileUp::at)
                .containsExactly(Instant.parse("2026-11-23T11:00:00Z"), Instant.parse("2026-11-24T02:30:00Z"));
    }

    @Test
    void whatRunsMoreThanOnceAMinuteIsNoneAndTheSpreadFitsTheRest() {
        List<Job> dense = new ArrayList<>();
        for (int i = 0; i < 9; i++) {
            dense.add(Job.named("dense-" + i)
                    .every(Duration.ofSeconds(5))
                    .program("true")
                    .build());
        }
        assertThat(PileUps.of(dense, NOW)).isEmpty();

        dense.addAll(hourly(4));
        dense.add(job("quarter", "*/15 * * * *"));
        assertThat(PileUps.of(dense, NOW)).singleElement().satisfies(pileUp -> {
            assertThat(pileUp.jobs()).hasSize(5);
            assertThat(pileUp.spread()).isEqualTo(Duration.ofMinutes(7));
            assertThat(pileUp.sentence()).contains("add spread: 7m");
        });
    }

    @Test
    void aSpreadTakesThemApart() {
        List<Job> jobs = new ArrayList<>();
        for (int i = 0; i < 40; i++) {
            jobs.add(Job.named("job-" + i)
                    .cron("@hourly", "UTC")
                    .spread(Duration.ofMinutes(30))
                    .program("true")
                    .build());
        }

        assertThat(PileUps.of(jobs, NOW)).isEmpty();
    }
}
