package dev.brume.internal.document;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.FailureKinds;
import dev.brume.IfBusy;
import dev.brume.IfFailed;
import dev.brume.IfLost;
import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.Work;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.DailyWindow;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.Days;
import dev.brume.schedule.EverySchedule;
import dev.brume.schedule.Fold;
import dev.brume.schedule.Gap;
import dev.brume.schedule.IfDayOff;
import dev.brume.schedule.Moment;
import dev.brume.schedule.OnceSchedule;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.Terms;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;

class JobDocumentTest {
    private static final List<String> ZONES = List.of("Atlantic/Azores", "Europe/Lisbon", "Australia/Lord_Howe", "UTC");

    private static Job random(SplittableRandom random) {
        Job.Builder job = Job.named("harbour/job-" + random.nextInt(1000));
        for (int i = random.nextInt(4); i > 0; i--) {
            job.schedule(schedule(random));
        }
        if (random.nextBoolean()) {
            job.handler("handler " + random.nextInt(10));
        } else {
            job.work(new Work.Program(
                    List.of("./run", "--n", "" + random.nextInt(10)),
                    random.nextBoolean() ? Map.of() : Map.of("B", "2", "A", "1"),
                    random.nextBoolean() ? Optional.empty() : Optional.of("work")));
        }
        if (random.nextBoolean()) {
            job.timeLimit(Duration.ofMillis(1 + random.nextInt(1_000_000)));
        }
        job.ifBusy(
                switch (random.nextInt(4)) {
                    case 0 -> IfBusy.skip();
                    case 3 -> IfBusy.supersede();
                    case 1 -> IfBusy.waiting(1 + random.nextInt(50));
                    default -> IfBusy.alongside(1 + random.nextInt(50));
                });
        job.ifMissed(
                switch (random.nextInt(3)) {
                    case 0 -> IfMissed.skip();
                    case 1 -> IfMissed.runLatest().tolerance(Duration.ofSeconds(1 + random.nextInt(500)));
                    default ->
                        IfMissed.runEach(1 + random.nextInt(50)).oldest(Duration.ofHours(1 + random.nextInt(50)));
                });
        if (random.nextBoolean()) {
            job.ifFailed(IfFailed.attempts(1 + random.nextInt(9), Duration.ofSeconds(random.nextInt(90)))
                    .factor(1 + random.nextInt(3))
                    .cap(Duration.ofHours(2)));
        } else {
            job.ifFailed(IfFailed.waits(List.of(Duration.ofSeconds(1 + random.nextInt(9)), Duration.ofMinutes(2)))
                    .jitter(random.nextInt(4) / 4.0)
                    .retryOn(FailureKinds.statuses(429, 503))
                    .giveUpOn(FailureKinds.NONE
                            .andErrors(Set.of("IOException"))
                            .andExitCodes(Set.of(2, 3 + random.nextInt(90)))
                            .andStatuses(Set.of(404, 410))));
        }
        if (random.nextInt(3) == 0) {
            job.work(new Work.Request(
                    "PUT",
                    "https://board.merrow.example/tides?at=${plannedLocal}",
                    Map.of("Authorization", "Bearer ${env:BOARD}", "X-Quay", "4"),
                    random.nextBoolean() ? Optional.of("{\"run\": ${run}}") : Optional.empty(),
                    random.nextBoolean() ? Set.of(200, 409) : Set.of()));
        }
        if (random.nextBoolean()) {
            job.startWithin(Duration.ofSeconds(1 + random.nextInt(900)));
        }
        job.ifLost(IfLost.values()[random.nextInt(2)])
                .priority(random.nextInt(10))
                .enabled(random.nextBoolean());
        job.lane(random.nextBoolean() ? Job.MAIN_LANE : "night");
        if (random.nextBoolean()) {
            job.tag("t" + random.nextInt(5))
                    .tag("a")
                    .description("Ebbe & Flut – 潮汐")
                    .payload("{\"x\":\"ü\"}");
        }
        return job.build();
    }

    private static Schedule schedule(SplittableRandom random) {
        Schedule rule = rule(random);
        if (random.nextBoolean()) {
            return rule;
        }
        Terms terms = Terms.NONE;
        terms = random.nextBoolean() ? terms.notOn(DayCalendar.missing("feasts")) : terms;
        terms = random.nextBoolean() ? terms.onlyOn(DayCalendar.missing("office-days")) : terms;
        boolean moves = rule instanceof CronSchedule && !terms.equals(Terms.NONE);
        terms = moves ? terms.ifDayOff(IfDayOff.values()[random.nextInt(3)]) : terms;
        terms = random.nextBoolean() ? terms.within(DailyWindow.parse("22:30-06:00")) : terms;
        terms = random.nextBoolean() ? terms.from(Moment.parse("2026-11-23", rule.zone())) : terms;
        terms = random.nextBoolean() ? terms.until(Moment.parse("2027-05-14T06:00:00Z", rule.zone())) : terms;
        return rule.with(random.nextBoolean() ? terms.atMost(1 + random.nextInt(1000)) : terms);
    }

    private static Schedule rule(SplittableRandom random) {
        ZoneId zone = ZoneId.of(ZONES.get(random.nextInt(ZONES.size())));
        switch (random.nextInt(5)) {
            case 3:
                return OnceSchedule.parse("in " + (1 + random.nextInt(90)) + "m", zone);
            case 0:
                return EverySchedule.of(Duration.ofMillis(1000 + random.nextInt(100_000)))
                        .withZone(zone)
                        .withAnchor(Instant.ofEpochMilli(random.nextLong(2_000_000_000_000L)));
            case 1:
                return OnceSchedule.parse("2027-05-14T06:00", zone);
            case 2:
                return OnceSchedule.at(Instant.ofEpochSecond(1_800_000_000L, random.nextInt(1_000_000) * 1000L), zone);
            default:
                CronSchedule cron = CronSchedule.parse(random.nextInt(60) + " */3 1-15 * MON-FRI", zone);
                cron = random.nextBoolean() ? cron.withGap(Gap.values()[random.nextInt(2)]) : cron;
                cron = random.nextBoolean() ? cron.withFold(Fold.values()[random.nextInt(3)]) : cron;
                return random.nextBoolean() ? cron.withDays(Days.BOTH) : cron;
        }
    }

    @Test
    void whatIsWrittenIsReadBackTheSame() {
        SplittableRandom random = new SplittableRandom(20261123);
        for (int i = 0; i < 500; i++) {
            Job job = random(random);
            List<DocumentProblem> problems = new ArrayList<>();
            Optional<Job> read = JobDocument.read(job.name(), "", JobDocument.write(job), Optional.empty(), problems);

            assertThat(problems).isEmpty();
            assertThat(read).as("case " + i).contains(job);
        }
    }

    @Test
    void defaultsAreNotWritten() {
        Job job = Job.named("tides").cron("0 9 * * *", "UTC").program("true").build();

        assertThat(JobDocument.write(job)).containsOnlyKeys("when", "work");
    }

    /** Values of every wrong type at every key: noted, never thrown. */
    @Test
    void nothingThatAKeyCanHoldMakesItThrow() {
        List<Object> odd = new ArrayList<>(List.of(
                "",
                "text",
                0,
                -1,
                2_000_000_000,
                1.5,
                true,
                List.of(),
                List.of(1, List.of()),
                Map.of(),
                Map.of("a", 1),
                "\u0000",
                "x".repeat(10_000),
                List.of(Map.of("cron", 5)),
                Map.of("cron", List.of())));
        odd.add(null);
        List<String> keys = List.of(
                "description",
                "when",
                "work",
                "timeLimit",
                "ifBusy",
                "ifFailed",
                "ifMissed",
                "ifLost",
                "lane",
                "priority",
                "tags",
                "payload",
                "enabled",
                "unknown");
        for (String key : keys) {
            for (Object value : odd) {
                Map<String, Object> document = new HashMap<>(Map.of("work", Map.of("handler", "h")));
                document.put(key, value);
                List<DocumentProblem> problems = new ArrayList<>();
                Optional<Job> job = JobDocument.read(
                        Job.named("x").name(), "jobs/x", document, Optional.of(ZoneId.of("UTC")), problems);

                assertThat(job.isPresent()).as(key + ": " + value).isEqualTo(problems.isEmpty());
                assertThat(problems)
                        .allSatisfy(problem -> assertThat(problem.path()).startsWith("jobs/x"));
            }
        }
    }
}
