package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.FollowUp;
import dev.brume.IfBusy;
import dev.brume.IfFailed;
import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.JobScope;
import dev.brume.RunState;
import dev.brume.history.Pause;
import dev.brume.insight.tally.Verdict;
import dev.brume.insight.why.Answer;
import dev.brume.insight.why.Question;
import java.time.Duration;
import java.time.Instant;
import java.util.Optional;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

/** Why a job runs or does not, asked of what the engine itself has put on record. */
@ExtendWith(VirtualBrumeExtension.class)
@BeginningAt("2026-05-04T06:00:00Z")
class WhyTest {
    private static final Instant SIX = Instant.parse("2026-05-04T06:00:00Z");

    private static Question question(VirtualBrume harbour, String job) {
        return new Question(
                harbour.brume().history(),
                harbour.brume().history().job(JobName.parse(job)).orElseThrow(),
                harbour.now(),
                Instant::toString);
    }

    private static String now(VirtualBrume harbour, String job) {
        return question(harbour, job).aboutNow().sentence();
    }

    private static String at(VirtualBrume harbour, String job, Instant then) {
        return question(harbour, job).about(then).sentence();
    }

    @Test
    void whatDoesNothingNowSaysWhatItIsWaitingFor(VirtualBrume harbour) {
        harbour.brume().define(Job.named("board"), run -> {});
        harbour.brume()
                .define(Job.named("tides").cron("0 4 * * *", "UTC").followUp(FollowUp.On.END, "board"), run -> {});
        harbour.brume().define(Job.named("once").once(SIX.plusSeconds(60)), run -> {});
        harbour.brume().define(Job.named("off").every(Duration.ofHours(1)).enabled(false), run -> {});
        harbour.brume().define(Job.named("alone"), run -> {});
        harbour.brume().define(Job.named("night").lane("night"), run -> {});
        harbour.brume().define(Job.named("crane").requireLabel("crane"), run -> {});
        harbour.brume().define(Job.named("strange").handler("unknown").build());
        harbour.brume().define(Job.named("buoy").ifFailed(IfFailed.attempts(2, Duration.ofMinutes(5))), run -> {
            throw new IllegalStateException("buoy silent");
        });
        harbour.advance(Duration.ofMinutes(2));
        harbour.run("night");
        harbour.run("crane");
        harbour.run("strange");
        harbour.run("buoy");
        harbour.advance(Duration.ofSeconds(10));

        assertThat(now(harbour, "tides"))
                .isEqualTo("Nothing is due: it is owed next at 2026-05-05T04:00:00Z, in 21h58m.");
        assertThat(now(harbour, "once")).contains("owe nothing any more");
        assertThat(now(harbour, "off")).contains("It is disabled: enabled is false in version 1");
        assertThat(now(harbour, "board")).isEqualTo("It has no schedule: it runs after tides.");
        assertThat(now(harbour, "alone")).isEqualTo("It has no schedule: it runs when someone orders it.");
        assertThat(now(harbour, "night"))
                .contains("waits for a worker: no live instance serves the lane night (alive: test (main=16))");
        assertThat(now(harbour, "crane")).contains("no live instance of the lane main carries the labels crane");
        assertThat(now(harbour, "strange"))
                .contains("waits for a worker: no live instance that serves the lane main has the handler 'unknown'");
        assertThat(now(harbour, "buoy"))
                .contains("failed at attempt 1 (java.lang.IllegalStateException: buoy silent)")
                .contains("the next begins at 2026-05-04T06:07:00Z");
        harbour.brume().orders("anna", "new lamp").pause(Pause.Scope.of(JobName.parse("tides")));
        assertThat(now(harbour, "tides"))
                .contains("It is paused: anna paused job tides at ")
                .endsWith("because: new lamp.");
    }

    @Test
    void whatRunsSaysSinceWhenAndWhetherThatIsFarTooLong(VirtualBrume harbour) {
        String[] seen = new String[1];
        harbour.brume().define(Job.named("survey"), run -> {
            if (run.payload().isPresent()) {
                harbour.elapse(Duration.ofMinutes(90));
                seen[0] = now(harbour, "survey");
            } else {
                harbour.elapse(Duration.ofSeconds(3));
            }
        });
        harbour.run("survey");

        harbour.run("survey", "slowly");

        assertThat(seen[0])
                .contains("It is running: run 2 on test for 1h30m")
                .contains("far longer than the usual 3s, and it has no timeLimit that would end it (brume cancel 2)");
    }

    @Test
    void aLaneThatNobodyServesAndAPauseAreSaidForWhatTheyAre(VirtualBrume harbour) {
        harbour.brume()
                .define(
                        Job.named("chart")
                                .every(Duration.ofMinutes(10))
                                .lane("printing")
                                .ifBusy(IfBusy.skip()),
                        run -> {});
        harbour.brume().define(Job.named("ferry").every(Duration.ofMinutes(10)), run -> {});
        harbour.advance(Duration.ofMinutes(25));
        harbour.brume().orders("ines", "gale").pause(Pause.Scope.of(JobName.parse("ferry")));
        harbour.advance(Duration.ofMinutes(10));

        assertThat(at(harbour, "chart", SIX.plusSeconds(1200)))
                .contains("was skipped: run ")
                .contains(" had the place and has not begun: nobody served the lane printing, and ifBusy is skip");
        assertThat(at(harbour, "ferry", SIX.plusSeconds(1800)))
                .startsWith(
                        "The occurrence of 2026-05-04T06:30:00Z is due and not planned yet: ines paused job ferry at ")
                .contains(", because: gale; it is decided about when the pause ends, and ifMissed is ");
        harbour.brume().orders("ines", "").resume(Pause.Scope.of(JobName.parse("ferry")));
        harbour.settle();
        assertThat(at(harbour, "ferry", SIX.plusSeconds(1800))).contains("the job was paused");
    }

    @Test
    void whatBecameOfAnOccurrenceIsSaidWithItsCause(VirtualBrume harbour) {
        harbour.brume()
                .define(
                        Job.named("log").every(Duration.ofMinutes(10)).ifMissed(IfMissed.runLatest()),
                        run -> harbour.elapse(Duration.ofSeconds(5)));
        harbour.brume().define(Job.named("ferry").every(Duration.ofMinutes(10)).ifMissed(IfMissed.skip()), run -> {});
        harbour.brume()
                .beforeStart(
                        "storm",
                        JobScope.job("ferry"),
                        run -> Optional.of("gale warning")
                                .filter(w -> run.planned().equals(SIX.plusSeconds(600))));
        harbour.advance(Duration.ofMinutes(25));
        harbour.elapse(Duration.ofHours(1));
        harbour.settle();

        assertThat(at(harbour, "log", SIX.plusSeconds(600)))
                .startsWith("The occurrence of 2026-05-04T06:10:00Z ran on time: run ")
                .contains("on test and ended SUCCEEDED after 5s");
        assertThat(at(harbour, "ferry", SIX.plusSeconds(600)))
                .contains("was turned down by a check before it started (run ");
        assertThat(at(harbour, "ferry", SIX.plusSeconds(1800)))
                .contains("was passed over with 5 others, from 2026-05-04T06:30:00Z to 2026-05-04T07:20:00Z")
                .contains("nobody planned it in time, though test (main=16) were alive by their leases")
                .endsWith("ifMissed is skip.");
        assertThat(at(harbour, "log", SIX.plusSeconds(4800))).contains("ran late: run ");
        Answer nothing = question(harbour, "log").about(SIX.plusSeconds(665));
        assertThat(nothing.sentence())
                .isEqualTo("Nothing was owed at 2026-05-04T06:11:05Z: before it at 2026-05-04T06:10:00Z, after it at"
                        + " 2026-05-04T06:20:00Z.");
        assertThat(at(harbour, "log", SIX.minusSeconds(60))).contains("was not defined yet");
        assertThat(question(harbour, "log").about(SIX.plusSeconds(600)).facts())
                .extracting(Answer.Fact::name)
                .contains("version", "occurrence", "policies", "alive then", "attempt 1");
    }

    @Test
    void everyStateAndEveryVerdictIsACodeToo() {
        assertThat(Answer.Code.values())
                .extracting(Enum::name)
                .contains(Stream.of(RunState.values()).map(Enum::name).toArray(String[]::new))
                .contains(Stream.of(Verdict.values()).map(Enum::name).toArray(String[]::new));
    }
}
