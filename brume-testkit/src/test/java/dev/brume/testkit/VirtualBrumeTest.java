package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.tuple;

import dev.brume.AttemptEnd;
import dev.brume.Event;
import dev.brume.EventFilter;
import dev.brume.FollowUp;
import dev.brume.Handler;
import dev.brume.IfBusy;
import dev.brume.IfFailed;
import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.Orders;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.RunState;
import dev.brume.history.JobAccount;
import dev.brume.history.OneOffView;
import dev.brume.history.Progress;
import dev.brume.history.RunView;
import dev.brume.history.Timeframe;
import dev.brume.insight.tally.JobTally;
import dev.brume.insight.tally.Tally;
import dev.brume.insight.tally.Verdict;
import dev.brume.insight.why.Question;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CountDownLatch;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

/** Brume in virtual time, as the tests of an application use it. */
@ExtendWith(VirtualBrumeExtension.class)
class VirtualBrumeTest {
    private static final Instant BEGIN = Instant.parse("2026-03-28T12:00:00Z");

    @Test
    @BeginningAt("2026-03-28T12:00:00Z")
    void whatFallsDueOnTheWayIsDoneAtItsTime(VirtualBrume harbour) {
        List<Instant> seen = new ArrayList<>();
        harbour.brume().define(Job.named("tide-tables").cron("30 2 * * *", "Europe/Lisbon"), run -> {
            seen.add(harbour.now());
            run.result(run.plannedLocal().toString());
        });

        assertThat(harbour.advance(Duration.ofHours(12))).isEmpty();
        List<RunView> ended = harbour.advance(Duration.ofDays(2));

        assertThat(ended)
                .extracting(run -> run.owed().planned())
                .isEqualTo(seen)
                .hasSize(2);
        harbour.ledger("tide-tables")
                .succeeded(2)
                .planned(Instant.parse("2026-03-29T01:30:00Z"), Instant.parse("2026-03-30T01:30:00Z"))
                .lastResult("2026-03-30T02:30");
        assertThat(harbour.settle()).as("told once").isEmpty();
        assertThat(harbour.now()).isEqualTo(BEGIN.plus(Duration.ofHours(60)));
    }

    @Test
    void aHandlerThatBlocksTheWorkersOfALaneWhileOthersAreReadyIsTold() {
        List<String> problems = new ArrayList<>();
        try (VirtualBrume harbour =
                VirtualBrume.beginning(BEGIN).lane("main", 1).build()) {
            harbour.brume().listen("office", EventFilter.of(Event.Kind.PROBLEM), event -> problems.add(event.text()));
            harbour.brume()
                    .define(Job.named("stuck").once(BEGIN.plusSeconds(60)), run -> harbour.elapse(Duration.ofHours(2)));
            harbour.brume().define(Job.named("tides").every(Duration.ofMinutes(10)), run -> {});

            harbour.advance(Duration.ofMinutes(8));
            assertThat(problems).as("nobody waits").isEmpty();
            harbour.advance(Duration.ofMinutes(30));
        }
        assertThat(problems)
                .singleElement()
                .asString()
                .contains("lane main is blocked: its worker is taken by run 2 of stuck for ", "timeLimit");
    }

    @Test
    void aJobRunsHereAndNowWithWhatItIsGivenAndWhatFollowsIt(VirtualBrume harbour) {
        harbour.brume()
                .define(
                        Job.named("dues"),
                        run -> run.result(
                                "for " + run.parent().orElseThrow().result().get()));
        harbour.brume().define(Job.named("manifests").followUp(FollowUp.On.SUCCESS, "dues"), run -> {
            run.progress(50, "at the gate");
            assertThat(harbour.look(run).progress()).contains(new Progress(50, "at the gate"));
            run.result(run.payload().orElse("none"));
        });

        RunView run = harbour.run("manifests", "17 cars");

        assertThat(run.outcome()).contains(Outcome.SUCCEEDED);
        assertThat(run.result()).contains("17 cars");
        harbour.ledger("dues").succeeded(1).lastResult("for 17 cars");
    }

    @Test
    void failuresWaitAndTimeLimitsHoldInVirtualTime(VirtualBrume harbour) {
        harbour.brume().define(Job.named("telemetry").ifFailed(IfFailed.attempts(3, Duration.ofMinutes(10))), run -> {
            if (run.attempt() < 3) {
                throw new IllegalStateException("buoy silent");
            }
        });
        harbour.brume()
                .define(
                        Job.named("survey").timeLimit(Duration.ofMinutes(1)),
                        run -> harbour.elapse(Duration.ofMinutes(2)));

        RunView first = harbour.run("telemetry");
        assertThat(first.state()).contains(RunState.BACKING_OFF);
        assertThat(first.lastAttempt().orElseThrow().error().orElse("")).contains("buoy silent");
        harbour.advance(Duration.ofMinutes(19));
        assertThat(harbour.look(first.id()).attempts()).hasSize(2);
        harbour.advance(Duration.ofMinutes(1));
        assertThat(harbour.look(first.id()).outcome()).contains(Outcome.SUCCEEDED);

        RunView survey = harbour.run("survey");
        assertThat(survey.outcome()).contains(Outcome.TIMED_OUT);
        assertThat(survey.lastAttempt().orElseThrow().end()).contains(AttemptEnd.TIMED_OUT);
        assertThat(Duration.between(
                        survey.lastAttempt().orElseThrow().startedAt(),
                        survey.lastAttempt().orElseThrow().endedAt().orElseThrow()))
                .isEqualTo(Duration.ofMinutes(1));
    }

    @Test
    @BeginningAt(value = "2026-03-28T12:00:00Z", collectOneOffs = true)
    void oneOffsAreCollected(VirtualBrume harbour) {
        JobName notice = JobName.parse("notice");
        harbour.brume().define(Job.named(notice), run -> {});
        harbour.brume()
                .oneOffs()
                .add(OneOff.of(notice, "storm-7").at(BEGIN.plusSeconds(60)).payload("gale"));

        harbour.advance(Duration.ofDays(1));

        assertThat(harbour.planned())
                .extracting(OneOffView::job, OneOffView::key, OneOffView::dueAt, OneOffView::payload)
                .containsExactly(tuple(notice, "storm-7", BEGIN.plusSeconds(60), Optional.of("gale")));
        harbour.ledger().planned();
    }

    @Test
    void oneOffsRunAtTheirTimeAndWorkIsDoneByWhoeverIsAsked() {
        List<String> done = new ArrayList<>();
        try (VirtualBrume harbour = VirtualBrume.beginning(BEGIN)
                .lane("night", 1)
                .workDoneBy(run -> done.add(run.job() + " " + run.payload().orElse("")))
                .build()) {
            harbour.brume()
                    .define(Job.named("lamps")
                            .lane("night")
                            .program("no-such-program")
                            .build());
            harbour.brume()
                    .define(Job.named("notice")
                            .lane("night")
                            .handler("not-registered")
                            .payloadType("n-1")
                            .build());
            harbour.brume()
                    .oneOffs()
                    .add(OneOff.of(JobName.parse("notice"), "storm-7")
                            .at(BEGIN.plusSeconds(60))
                            .payload("gale"));

            harbour.run("lamps");
            harbour.advance(Duration.ofMinutes(1));
        }
        assertThat(done).containsExactly("lamps ", "notice gale");
    }

    /** Time that passes at once is no outage; one is had by an instance that does nothing meanwhile. */
    @Test
    void whatIsMissedIsOneSpan(VirtualBrume harbour) {
        harbour.brume()
                .define(Job.named("telemetry").every(Duration.ofMinutes(1)).ifMissed(IfMissed.runLatest()), run -> {});
        harbour.advance(Duration.ofMinutes(5));
        harbour.elapse(Duration.ofHours(1));

        harbour.settle();

        harbour.ledger("telemetry").succeeded(7).passedOver(58);
    }

    @Test
    void workThatOutlastsItsIntervalOverlapsAsInProduction(VirtualBrume harbour) {
        List<Integer> together = new ArrayList<>();
        int[] going = new int[1];
        Handler slow = run -> {
            together.add(++going[0]);
            harbour.elapse(Duration.ofMinutes(12));
            going[0]--;
        };
        harbour.brume().define(Job.named("alone").every(Duration.ofMinutes(5)).ifBusy(IfBusy.skip()), slow);
        harbour.advance(Duration.ofMinutes(31));
        harbour.ledger("alone").succeeded(2).skipped(Reason.BUSY, 4).live(1);
        assertThat(together).containsExactly(1, 1, 1);

        together.clear();
        harbour.brume().orders("ines", "").drop(JobName.parse("alone"));
        harbour.advance(Duration.ofHours(1));
        harbour.brume().define(Job.named("beside").every(Duration.ofMinutes(5)).ifBusy(IfBusy.alongside(2)), slow);
        harbour.advance(Duration.ofMinutes(15));
        assertThat(together).containsExactly(1, 2);
        harbour.ledger("beside").live(2).skipped(Reason.BUSY, 1);
    }

    @Test
    void whoReallyWaitsIsNamedWithWhereItIs() {
        CountDownLatch never = new CountDownLatch(1);
        VirtualBrume harbour = VirtualBrume.beginning(BEGIN)
                .realTimeLimit(Duration.ofMillis(200))
                .build();
        harbour.brume().define(Job.named("lamps"), run -> never.await());

        assertThatThrownBy(() -> harbour.run("lamps"))
                .isInstanceOf(IllegalStateException.class)
                .hasMessageContaining("the handler of run 1 of lamps has gone on for 0.2 s of real time")
                .hasMessageContaining("CountDownLatch.await");
        harbour.close();
    }

    @Test
    void workThatIsToldToEndIsInterruptedAfterItsGraceAndWhatItSaysLastCounts(VirtualBrume harbour) {
        List<String> seen = new ArrayList<>();
        Instant begun = harbour.now();
        harbour.brume().define(Job.named("survey"), run -> {
            harbour.elapse(Duration.ofHours(1));
            seen.add(Duration.between(begun, harbour.now()) + " " + run.stopAsked() + " "
                    + Thread.currentThread().isInterrupted());
            if (run.stopAsked().isEmpty()) {
                run.result("all of it");
            }
        });
        Orders ines = harbour.brume().orders("ines", "");
        long told = ines.runNow(JobName.parse("survey")).id();
        harbour.advance(Duration.ofMinutes(5));
        ines.cancel(told);
        harbour.advance(Duration.ofMinutes(1));
        long left = ines.runNow(JobName.parse("survey")).id();
        harbour.advance(Duration.ofHours(2));

        assertThat(seen.get(0)).isEqualTo("PT5M10S Optional[CANCELLED] true");
        assertThat(harbour.look(left).outcome()).contains(Outcome.SUCCEEDED);
        harbour.ledger("survey").lastResult("all of it");
    }

    @Test
    @BeginningAt("2026-03-28T12:00:00Z")
    void aShortOutageIsOnRecordAsSuch(VirtualBrume harbour) {
        harbour.brume().define(Job.named("buoys").every(Duration.ofSeconds(3)).ifBusy(IfBusy.skip()), run -> {
            harbour.elapse(Duration.ofSeconds(1));
            if (run.planned().getEpochSecond() % 30 == 0) {
                throw new IllegalStateException("buoy silent");
            }
        });
        harbour.advance(Duration.ofSeconds(31));
        harbour.outage(Duration.ofMillis(26_400));
        harbour.advance(Duration.ofSeconds(60));

        harbour.ledger("buoys").skipped(Reason.BUSY, 0).skipped(Reason.DECIDED_LATE, 8);
        List<JobAccount> accounts = new ArrayList<>();
        harbour.brume().history().accounts(Timeframe.between(BEGIN, harbour.now()), accounts::add);
        JobTally tally = Tally.of(accounts.get(0), BEGIN, harbour.now());
        assertThat(tally.count(Verdict.MISSED)).isEqualTo(8);
        assertThat(tally.reasons()).containsEntry(Reason.DECIDED_LATE.name(), 8L);
        assertThat(Stream.of(Verdict.ON_TIME, Verdict.LATE, Verdict.SKIPPED, Verdict.MISSED, Verdict.PAUSED)
                                .mapToLong(tally::count)
                                .sum()
                        + tally.open())
                .isEqualTo(tally.expected());
        assertThat(tally.failed()).isEqualTo(4);
        assertThat(tally.began(Outcome.SUCCEEDED) + tally.failed() + tally.running())
                .isEqualTo(tally.count(Verdict.ON_TIME) + tally.count(Verdict.LATE));
        String why = new Question(
                        harbour.brume().history(),
                        harbour.brume().history().job(JobName.parse("buoys")).orElseThrow(),
                        harbour.now(),
                        Instant::toString)
                .about(BEGIN.plusSeconds(45))
                .sentence();
        assertThat(why)
                .startsWith(
                        "The occurrence of 2026-03-28T12:00:45Z was skipped: nobody decided about it when it fell due"
                                + " (test (main=16) could not: the database was away, or a host slept); run ")
                .contains("owed at 2026-03-28T12:00:33Z, then began late, at 2026-03-28T12:00:57");
    }

    @Test
    void whileTheDatabaseIsAwayNothingIsDoneAndThenWhatIsOwed(VirtualBrume harbour) {
        harbour.brume()
                .define(
                        Job.named("buoys")
                                .every(Duration.ofMinutes(1))
                                .ifMissed(IfMissed.runLatest().tolerance(Duration.ofMinutes(3))),
                        run -> harbour.elapse(Duration.ofSeconds(5)));
        harbour.advance(Duration.ofMinutes(2));
        harbour.outage(Duration.ofMinutes(2));
        assertThatThrownBy(() -> harbour.brume().orders("ines", "").runNow(JobName.parse("buoys")))
                .hasMessageContaining("the test has the database away until");
        harbour.advance(Duration.ofMinutes(1));
        long during = harbour.ledger("buoys").runs().size();
        harbour.advance(Duration.ofMinutes(5));

        assertThat(during).as("planned before").isLessThanOrEqualTo(3);
        assertThat(harbour.ledger("buoys").runs())
                .filteredOn(run -> run.outcome().equals(Optional.of(Outcome.SUCCEEDED)))
                .hasSizeGreaterThanOrEqualTo(6);
    }

    @Test
    void whatIsNotAsAssertedIsShownAsItIs(VirtualBrume harbour) {
        harbour.brume().define(Job.named("lamps").every(Duration.ofHours(1)), run -> {
            throw new IllegalStateException("no oil");
        });
        harbour.advance(Duration.ofHours(1));

        assertThatThrownBy(() -> harbour.ledger("lamps").succeeded(2))
                .isInstanceOf(AssertionError.class)
                .hasMessageContaining("ledger of lamps: expected 2 SUCCEEDED, found 0")
                .hasMessageContaining("FAILED NO_ATTEMPT_LEFT: java.lang.IllegalStateException: no oil");
        harbour.ledger("lamps").failed(2).skipped(Reason.BUSY, 0).live(0).passedOver(0);
        assertThatThrownBy(() -> harbour.advanceTo(harbour.now().minusSeconds(1)))
                .hasMessageContaining("time does not go back");
    }
}
