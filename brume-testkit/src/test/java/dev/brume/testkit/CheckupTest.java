package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.DefinitionSet;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.history.Pause;
import dev.brume.insight.doctor.Checkup;
import dev.brume.insight.doctor.Finding;
import dev.brume.insight.why.Question;
import dev.brume.internal.duty.Settings;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.Terms;
import dev.brume.schedule.Zones;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

/** What a checkup finds, of what the engine itself has put on record. */
@ExtendWith(VirtualBrumeExtension.class)
@BeginningAt("2026-05-04T06:00:00Z")
class CheckupTest {
    private static Checkup.Result look(VirtualBrume harbour, Duration skew) {
        return new Checkup(harbour.brume().history(), harbour.now().plus(skew), Settings.ownTzdata(), Instant::toString)
                .look();
    }

    private static List<String> found(VirtualBrume harbour) {
        return look(harbour, Duration.ZERO).findings().stream()
                .map(finding ->
                        finding.severity() + " " + finding.topic() + " " + finding.about() + ": " + finding.text())
                .toList();
    }

    @Test
    void whereAllIsWellNothingIsFound(VirtualBrume harbour) {
        harbour.brume().define(Job.named("tides").cron("0 4 * * *", "UTC"), run -> {});
        harbour.advance(Duration.ofDays(2));

        Checkup.Result result = look(harbour, Duration.ZERO);

        assertThat(result.findings()).isEmpty();
        assertThat(result.has(Finding.Severity.NOTE)).isFalse();
        assertThat(result.alive()).isEqualTo(1);
    }

    @Test
    void whatNobodyCanRunIsAProblemWithTheWayOut(VirtualBrume harbour) {
        harbour.brume().define(Job.named("night").lane("night").every(Duration.ofHours(1)), run -> {});
        harbour.brume().define(Job.named("crane").requireLabel("crane").every(Duration.ofHours(1)), run -> {});
        harbour.brume()
                .define(Job.named("strange")
                        .handler("unknown")
                        .every(Duration.ofHours(1))
                        .build());
        harbour.advance(Duration.ofHours(2));

        assertThat(found(harbour))
                .contains(
                        "PROBLEM nobody to run it night: no live instance serves the lane night (alive: test (main=16))",
                        "PROBLEM nobody to run it crane: no live instance of the lane main carries the labels crane (alive:"
                                + " test (main=16))")
                .anyMatch(line ->
                        line.startsWith("PROBLEM nobody to run it strange: no live instance that serves the lane"
                                + " main has the handler 'unknown'"))
                .noneMatch(line -> line.contains(" waiting "));
        assertThat(look(harbour, Duration.ZERO).findings())
                .extracting(Finding::advice)
                .contains("serve it: brume serve --lane night=N, or change the job's lane");
        assertThat(look(harbour, Duration.ZERO).has(Finding.Severity.PROBLEM)).isTrue();
    }

    @Test
    void definitionsThatNeverRunOrGoBackAndForthAreFound(VirtualBrume harbour) {
        for (int priority : List.of(1, 2, 1, 2)) {
            harbour.brume().define(Job.named("tug").every(Duration.ofHours(1)).priority(priority), run -> {});
        }
        harbour.brume().define(Job.named("past").once(Instant.parse("2025-01-01T00:00:00Z")), run -> {});
        harbour.brume()
                .define(
                        Job.named("dues")
                                .schedule(CronSchedule.parse("0 4 * * *", Zones.parse("UTC"))
                                        .with(Terms.NONE.notOn(DayCalendar.missing("feasts")))),
                        run -> {});
        harbour.brume().orders("ines", "dry dock").pause(Pause.Scope.tag("boats"));

        assertThat(found(harbour))
                .contains(
                        "PROBLEM tug-of-war tug: its definition goes back and forth: version 4 is what version 2 was",
                        "WARNING calendar dues: goes by feasts, which nobody has defined, so its days count as usual",
                        "NOTE definition past: 'once: 2025-01-01T00:00:00Z' is already past, so it never runs",
                        "NOTE paused tag boats: since 2026-05-04T06:00:00Z by ines, because: dry dock");
        Question question = new Question(
                harbour.brume().history(),
                harbour.brume().history().job(JobName.parse("tug")).orElseThrow(),
                harbour.now(),
                Instant::toString);
        assertThat(question.aboutNow().facts()).anyMatch(fact -> fact.name().equals("tug-of-war"));
    }

    @Test
    void whatFailsOrIsSkippedOftenIsFoundAndATugOfWarThatIsOverIsNot(VirtualBrume harbour) {
        int[] count = new int[1];
        harbour.brume().define(Job.named("buoy").every(Duration.ofHours(1)), run -> {
            if (count[0]++ % 2 == 0) {
                throw new IllegalStateException("buoy silent");
            }
        });
        harbour.brume()
                .define(
                        Job.named("chart").every(Duration.ofHours(1)).ifBusy(IfBusy.skip()),
                        run -> harbour.elapse(Duration.ofMinutes(185)));
        for (int priority : List.of(1, 2, 1, 2)) {
            harbour.brume().define(Job.named("tug").every(Duration.ofHours(1)).priority(priority), run -> {});
        }
        harbour.advance(Duration.ofHours(12).plusMinutes(30));

        assertThat(found(harbour))
                .anyMatch(line -> line.startsWith("WARNING failing often buoy: 7 of the 13 runs of the last 24h did not"
                        + " succeed, the last with: java.lang.IllegalStateException: buoy silent"))
                .contains("WARNING skipped often chart: 9 of its occurrences of the last 24h were skipped, and 3 ran")
                .noneMatch(line -> line.contains("tug-of-war"));
    }

    @Test
    void whatFailsAgainAndAgainAndWhatWaitsForAFullLimitIsFound(VirtualBrume harbour) {
        harbour.brume().define(DefinitionSet.of("test", List.of()).withLimits(Map.of("crane", 1)));
        harbour.brume().define(Job.named("buoy").every(Duration.ofHours(1)), run -> {
            throw new IllegalStateException("buoy silent");
        });
        harbour.brume().define(Job.named("holds").lane("night").limit("crane"), run -> {});
        harbour.brume().define(Job.named("waits").limit("crane"), run -> {});
        harbour.advance(Duration.ofHours(3).plusMinutes(1));
        harbour.run("holds");
        harbour.run("waits");
        harbour.advance(Duration.ofMinutes(10));

        assertThat(found(harbour))
                .contains("WARNING failing buoy: its last 4 runs did not succeed, the last with:"
                        + " java.lang.IllegalStateException: buoy silent")
                .anyMatch(line -> line.startsWith("WARNING waiting waits: run ")
                        && line.endsWith("waits for the limit crane (1 of 1 places taken)."));
    }

    @Test
    void aClockThatIsOffIsFoundAndRunsThatGoOnForFarTooLong(VirtualBrume harbour) {
        Checkup.Result[] during = new Checkup.Result[1];
        harbour.brume().define(Job.named("survey"), run -> {
            harbour.elapse(run.payload().isPresent() ? Duration.ofHours(3) : Duration.ofSeconds(3));
            during[0] = look(harbour, Duration.ZERO);
        });
        harbour.run("survey");
        harbour.run("survey", "slowly");

        assertThat(during[0].findings())
                .singleElement()
                .satisfies(finding -> assertThat(finding.topic() + " " + finding.about() + ": " + finding.text())
                        .startsWith("stuck run survey: It is running: run 2 on test for 3h"));
        assertThat(look(harbour, Duration.ofMinutes(-2)).findings())
                .singleElement()
                .satisfies(
                        finding -> assertThat(finding.text()).isEqualTo("its wall clock is 2m behind the database's"));
    }
}
