package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Keep;
import dev.brume.Orders;
import dev.brume.Outcome;
import dev.brume.history.ChangeFilter;
import dev.brume.history.ChangeView;
import dev.brume.history.JobAccount;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.history.Timeframe;
import dev.brume.insight.tally.JobTally;
import dev.brume.insight.tally.Tally;
import dev.brume.insight.tally.Verdict;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

@ExtendWith(VirtualBrumeExtension.class)
class RetentionTest {
    private static final JobName LAMPS = JobName.parse("lamps");

    private static Job.Builder everyMinute(String name) {
        return Job.named(name).every(Duration.ofMinutes(1));
    }

    private static long linesOf(VirtualBrume harbour, String job) {
        return harbour.brume().history().runs(RunFilter.newest(100_000)).stream()
                .filter(run -> run.outcome().isPresent())
                .filter(run -> run.job().name().equals(job))
                .count();
    }

    private static List<ChangeView> removals(VirtualBrume harbour) {
        return harbour.brume().history().changes(ChangeFilter.newest(1000)).stream()
                .filter(change -> change.change().kind().equals("REMOVED"))
                .toList();
    }

    @Test
    void eachJobKeepsItsOwnAndSaysWhatIsGone(VirtualBrume harbour) {
        harbour.brume().define(everyMinute("lamps").keep(Keep.newest(100)), run -> {});
        harbour.brume().define(everyMinute("dues").keep(Keep.upTo(Duration.ofHours(3))), run -> {});
        harbour.brume().define(everyMinute("tides"), run -> {});
        Instant begun = harbour.now();
        harbour.advance(Duration.ofHours(5));
        Orders clerk = harbour.brume().orders("clerk", "too many");

        assertThat(clerk.removeBeyondBounds()).isEqualTo(201 + 120);
        assertThat(clerk.removeBeyondBounds()).as("at once again").isZero();

        assertThat(linesOf(harbour, "lamps")).isEqualTo(100);
        assertThat(linesOf(harbour, "dues")).isBetween(180L, 181L);
        assertThat(linesOf(harbour, "tides")).isEqualTo(301);
        assertThat(removals(harbour)).hasSize(2).allSatisfy(change -> {
            assertThat(change.change().who()).isEqualTo("clerk");
            assertThat(change.change().because()).isEqualTo("too many");
        });
        assertThat(removals(harbour).toString()).contains("201 ledger lines, planned from " + begun);
        List<JobAccount> accounts = new ArrayList<>();
        harbour.brume()
                .history()
                .accounts(Timeframe.between(begun, harbour.now()).of(LAMPS), accounts::add);
        JobTally tally = Tally.of(accounts.get(0), begun, harbour.now());
        assertThat(tally.count(Verdict.BEYOND_RETENTION)).isEqualTo(201);
        assertThat(tally.count(Verdict.UNEXPLAINED)).isZero();
        assertThat(tally.isClean()).isTrue();
        assertThatThrownBy(() -> clerk.backfill(LAMPS, begun, begun.plusSeconds(600)))
                .hasMessageContaining("the ledger no longer knows what ran");
    }

    @Test
    void instancesRemoveByThemselvesAndATenthMayBeThereBeyond(VirtualBrume harbour) {
        harbour.brume().define(everyMinute("lamps").keep(Keep.newest(100)), run -> {});
        harbour.advance(Duration.ofMinutes(108));
        assertThat(harbour.brume().orders("clerk", "").removeBeyondBounds()).isZero();
        harbour.advance(Duration.ofHours(8));

        assertThat(linesOf(harbour, "lamps")).isLessThan(100 + 8 * 60);
        assertThat(removals(harbour)).isNotEmpty();
    }

    @Test
    void theBoundsOfTheWholeHoldWhateverAJobSays(VirtualBrume harbour) {
        harbour.brume().define(everyMinute("lamps").keep(Keep.upTo(Duration.ofDays(10))), run -> {});
        harbour.brume().define(everyMinute("dues"), run -> {});
        harbour.advance(Duration.ofHours(2));
        Orders clerk = harbour.brume().orders("clerk", "");

        assertThat(clerk.keep(Keep.newest(50))).isEqualTo(Keep.ALL);
        assertThat(clerk.removeBeyondBounds()).isEqualTo(192);
        assertThat(linesOf(harbour, "lamps") + linesOf(harbour, "dues")).isEqualTo(50);
        assertThat(clerk.keep(Keep.upTo(Duration.ofHours(1)))).isEqualTo(Keep.newest(50));
        assertThatThrownBy(() -> Keep.upTo(Duration.ofMinutes(5))).hasMessageContaining("5m is outside 1h to 36525d");
    }

    @Test
    void whatTheArchivistKeepsOfEveryJobNoJobShortens(VirtualBrume harbour) {
        harbour.brume().define(everyMinute("lamps").keep(Keep.newest(10)), run -> {});
        harbour.brume().define(everyMinute("buoys").keep(Keep.upTo(Duration.ofHours(1))), run -> {});
        harbour.advance(Duration.ofHours(5));
        Orders archivist = harbour.brume().orders("archivist", "audit");

        assertThat(archivist.keepAtLeast(Duration.ofHours(2))).isEmpty();

        archivist.removeBeyondBounds();
        assertThat(linesOf(harbour, "lamps")).as("of two hours").isBetween(120L, 121L);
        assertThat(linesOf(harbour, "buoys")).isBetween(120L, 121L);
        assertThatThrownBy(() ->
                        harbour.brume().define(everyMinute("dues").keep(Keep.upTo(Duration.ofMinutes(90))), run -> {}))
                .hasMessage("dues: keep: for: 1h30m is below the floor of 2h that the archivist has set for every job"
                        + " (brume keep shows it)");
        assertThatThrownBy(() -> archivist.keep(Keep.upTo(Duration.ofHours(1))))
                .hasMessageContaining("the ledger as a whole would keep 1h, which is below the floor of 2h");
        assertThat(archivist.keepNoLeast()).contains(Duration.ofHours(2));
        archivist.removeBeyondBounds();
        assertThat(linesOf(harbour, "lamps")).isEqualTo(10);
        assertThat(harbour.brume().history().changes(ChangeFilter.newest(1000)).toString())
                .contains("every job keeps at least 2h; before: nothing");
    }

    @Test
    void whatIsSecretIsGivenToTheWorkAndKeptOffTheRecord(VirtualBrume harbour) {
        List<String> given = new ArrayList<>();
        harbour.brume().define(Job.named("dues").mask("pin").payload("{\"pin\": 1234, \"quay\": 4}"), run -> {
            given.add(run.payload().orElseThrow());
            run.print("logged in with pin=1234");
            run.progress(50, "pin=1234 accepted");
            run.result("{\"pin\": \"1234\", \"paid\": 7}");
            if (given.size() == 3) {
                throw new IllegalStateException("refused: pin=1234");
            }
        });
        harbour.run("dues");
        RunView own = harbour.run("dues", "pin=9999 quay=5");

        assertThat(given).containsExactly("{\"pin\": 1234, \"quay\": 4}", "pin=9999 quay=5");
        assertThat(own.payload()).contains("pin=*** quay=5");
        assertThat(own.result()).contains("{\"pin\": \"***\", \"paid\": 7}");
        assertThat(own.outputs().get(1).text()).isEqualTo("logged in with pin=***\n");
        assertThat(own.owed().orderedBy()).isPresent();
        RunView failed = harbour.run("dues");
        assertThat(failed.outcome()).contains(Outcome.FAILED);
        assertThat(failed.lastAttempt().orElseThrow().error().orElseThrow()).contains("refused: pin=***");
        assertThat(failed.payload()).contains("{\"pin\": \"***\", \"quay\": 4}");

        Orders clerk = harbour.brume().orders("clerk", "");
        long again = clerk.rerun(failed.id()).id();
        harbour.settle();
        assertThat(given).as("the job's own payload").hasSize(4).last().isEqualTo("{\"pin\": 1234, \"quay\": 4}");
        assertThat(harbour.look(again).outcome()).contains(Outcome.SUCCEEDED);
        assertThat(harbour.look(again).owed().orderedBy()).contains("clerk");
        assertThatThrownBy(() -> clerk.rerun(own.id())).hasMessageContaining("cannot be given again");
    }
}
