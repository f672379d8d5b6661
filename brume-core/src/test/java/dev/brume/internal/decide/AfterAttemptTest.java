package dev.brume.internal.decide;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Failure;
import dev.brume.FailureKinds;
import dev.brume.FinalFailureException;
import dev.brume.IfFailed;
import dev.brume.IfLost;
import dev.brume.Job;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.RetryAfterException;
import dev.brume.RunState;
import dev.brume.UnreadablePayloadException;
import dev.brume.internal.decide.AfterAttempt.Ends;
import dev.brume.internal.decide.AfterAttempt.TriesAgain;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.junit.jupiter.api.Test;

class AfterAttemptTest {
    private static final Optional<Reason> USED_UP = Optional.of(Reason.NO_ATTEMPT_LEFT);
    private static final Job JOB = Job.named("dues")
            .program("true")
            .ifFailed(IfFailed.attempts(3, Duration.ofSeconds(10)).factor(3).cap(Duration.ofSeconds(20)))
            .build();

    private static Attempt attempt(AttemptEnd end) {
        return new Attempt(
                1,
                "quay-1",
                new UUID(1, 1),
                1,
                Instant.EPOCH,
                Optional.of(Instant.EPOCH),
                Optional.of(end),
                Optional.empty(),
                Optional.empty());
    }

    private static AfterAttempt decide(Job job, AttemptEnd... ends) {
        List<Attempt> all = new ArrayList<>();
        for (AttemptEnd end : ends) {
            all.add(attempt(end));
        }
        return AfterAttempt.decide(job, all.subList(0, all.size() - 1), all.get(all.size() - 1), Failure.UNKNOWN, 7);
    }

    private static AfterAttempt decide(IfFailed policy, Failure failure, long run) {
        Job job = Job.named("dues").program("true").ifFailed(policy).build();
        return AfterAttempt.decide(job, List.of(), attempt(AttemptEnd.FAILED), failure, run);
    }

    @Test
    void whatAJobCallsFinalEndsTheRunWithAttemptsLeft() {
        IfFailed policy = IfFailed.attempts(5, Duration.ofSeconds(1));
        Ends ends = new Ends(Outcome.FAILED, Optional.of(Reason.FINAL_FAILURE));
        Failure thrown = Failure.thrown(new java.io.FileNotFoundException("gone"));

        assertThat(decide(policy.giveUpOn(FailureKinds.exitCodes(2, 64)), Failure.exited(64), 1))
                .isEqualTo(ends);
        assertThat(decide(policy.giveUpOn(FailureKinds.exitCodes(2, 64)), Failure.exited(65), 1))
                .isInstanceOf(TriesAgain.class);
        assertThat(decide(policy.giveUpOn(FailureKinds.statuses(404)), Failure.answered(404, Optional.empty()), 1))
                .isEqualTo(ends);
        assertThat(decide(policy.giveUpOn(FailureKinds.errors(List.of(java.io.IOException.class))), thrown, 1))
                .isEqualTo(ends);
        assertThat(decide(policy.giveUpOn(FailureKinds.NONE.andErrors(Set.of("IOException"))), thrown, 1))
                .isEqualTo(ends);
        assertThat(decide(policy, thrown, 1)).isInstanceOf(TriesAgain.class);
    }

    @Test
    void whereAJobSaysWhatPassesAllElseIsFinalButTimeLimits() {
        Ends ends = new Ends(Outcome.FAILED, Optional.of(Reason.FINAL_FAILURE));
        IfFailed policy = IfFailed.attempts(5, Duration.ofSeconds(1))
                .retryOn(
                        FailureKinds.exitCodes(75).andStatuses(Set.of(429, 503)).andErrors(Set.of("IOException")))
                .giveUpOn(FailureKinds.errors(List.of(java.io.FileNotFoundException.class)));
        Failure wrapped =
                Failure.thrown(new IllegalStateException("no tide table", new java.io.EOFException("cut off")));
        Failure gone = Failure.thrown(new IllegalStateException(new java.io.FileNotFoundException("gone")));

        assertThat(decide(policy, Failure.exited(75), 1)).isInstanceOf(TriesAgain.class);
        assertThat(decide(policy, Failure.answered(503, Optional.empty()), 1)).isInstanceOf(TriesAgain.class);
        assertThat(decide(policy, wrapped, 1)).as("by its cause").isInstanceOf(TriesAgain.class);
        assertThat(decide(policy, gone, 1)).as("final all the same").isEqualTo(ends);
        assertThat(decide(policy, Failure.exited(1), 1)).isEqualTo(ends);
        assertThat(decide(policy, Failure.UNKNOWN, 1)).isEqualTo(ends);
        Job job = Job.named("dues").program("true").ifFailed(policy).build();
        assertThat(AfterAttempt.decide(job, List.of(), attempt(AttemptEnd.TIMED_OUT), Failure.UNKNOWN, 1))
                .isInstanceOf(TriesAgain.class);
    }

    @Test
    void aHandlerMayKnowThatAFailureIsFinalOrWhenToTryAgainEvenDeepInACause() {
        IfFailed policy = IfFailed.attempts(5, Duration.ofSeconds(1));
        Throwable circle = new IllegalStateException("round");
        circle.initCause(new IllegalArgumentException("and round", circle));

        assertThat(decide(policy, Failure.thrown(new FinalFailureException("no such ship")), 1))
                .isEqualTo(new Ends(Outcome.FAILED, Optional.of(Reason.FINAL_FAILURE)));
        assertThat(decide(policy, Failure.thrown(new RuntimeException(new FinalFailureException("no such ship"))), 1))
                .isEqualTo(new Ends(Outcome.FAILED, Optional.of(Reason.FINAL_FAILURE)));
        assertThat(decide(
                        policy,
                        Failure.thrown(
                                new RuntimeException(new RetryAfterException("low water", Duration.ofMinutes(3)))),
                        1))
                .isEqualTo(new TriesAgain(RunState.BACKING_OFF, Duration.ofMinutes(3)));
        assertThat(decide(policy, Failure.thrown(circle), 1)).isInstanceOf(TriesAgain.class);
    }

    @Test
    void theOnlyAttemptHasItsReasonToo() {
        Ends usedUp = new Ends(Outcome.FAILED, USED_UP);
        Ends unreadable = new Ends(Outcome.FAILED, Optional.of(Reason.UNREADABLE_PAYLOAD));
        Failure payload = Failure.thrown(new UnreadablePayloadException("not a number", new NumberFormatException()));

        assertThat(decide(IfFailed.giveUp(), Failure.UNKNOWN, 1)).isEqualTo(usedUp);
        assertThat(decide(IfFailed.giveUp(), payload, 1)).isEqualTo(unreadable);
        assertThat(decide(IfFailed.attempts(5, Duration.ZERO), payload, 1)).isEqualTo(unreadable);
    }

    @Test
    void theOtherSideMayAskForALongerWaitButNotForEver() {
        IfFailed policy = IfFailed.attempts(5, Duration.ofSeconds(10));
        Failure soon = Failure.answered(503, Optional.of(Duration.ofSeconds(3)));
        Failure later = Failure.thrown(new RetryAfterException("low water", Duration.ofMinutes(3)));
        Failure never = Failure.answered(503, Optional.of(Duration.ofDays(400)));

        assertThat(decide(policy, soon, 1)).isEqualTo(new TriesAgain(RunState.BACKING_OFF, Duration.ofSeconds(10)));
        assertThat(decide(policy, later, 1)).isEqualTo(new TriesAgain(RunState.BACKING_OFF, Duration.ofMinutes(3)));
        assertThat(decide(policy, never, 1))
                .isEqualTo(new TriesAgain(RunState.BACKING_OFF, AfterAttempt.LONGEST_ASKED));
    }

    @Test
    void jitterShortensWaitsDifferentlyForEachRunAndTheSameForOne() {
        IfFailed policy = IfFailed.attempts(5, Duration.ofSeconds(100)).jitter(0.5);
        Set<Duration> waits = new HashSet<>();
        for (long run = 0; run < 1000; run++) {
            Duration wait = policy.waitAfter(1, run);
            assertThat(wait).isBetween(Duration.ofSeconds(50), Duration.ofSeconds(100));
            assertThat(wait).isEqualTo(policy.waitAfter(1, run));
            waits.add(wait);
        }
        assertThat(waits).hasSizeGreaterThan(900);
        assertThat(waits.stream().mapToLong(Duration::toMillis).average().orElseThrow())
                .isBetween(73_000.0, 77_000.0);
    }

    @Test
    void waitsOneByOneEndWithTheLastForAllThatFollow() {
        IfFailed policy = IfFailed.waits(List.of(Duration.ofSeconds(1), Duration.ofMinutes(1)));

        assertThat(policy.attempts()).isEqualTo(3);
        assertThat(policy.waitAfter(1)).isEqualTo(Duration.ofSeconds(1));
        assertThat(policy.waitAfter(2)).isEqualTo(Duration.ofMinutes(1));
        assertThat(policy.waitAfter(9)).isEqualTo(Duration.ofMinutes(1));
    }

    @Test
    void failuresAreTriedAgainWithGrowingWaitsUntilTheAttemptsAreUsedUp() {
        AttemptEnd failed = AttemptEnd.FAILED;
        assertThat(decide(JOB, failed)).isEqualTo(new TriesAgain(RunState.BACKING_OFF, Duration.ofSeconds(10)));
        assertThat(decide(JOB, failed, failed)).isEqualTo(new TriesAgain(RunState.BACKING_OFF, Duration.ofSeconds(20)));
        assertThat(decide(JOB, failed, failed, failed)).isEqualTo(new Ends(Outcome.FAILED, USED_UP));
        assertThat(decide(JOB, failed, failed, AttemptEnd.TIMED_OUT)).isEqualTo(new Ends(Outcome.TIMED_OUT, USED_UP));
        assertThat(decide(JOB, failed, AttemptEnd.SUCCEEDED)).isEqualTo(new Ends(Outcome.SUCCEEDED, Optional.empty()));
    }

    @Test
    void handingBackAndLosingDoNotCountAsFailures() {
        assertThat(decide(JOB, AttemptEnd.HANDED_BACK, AttemptEnd.LOST, AttemptEnd.HANDED_BACK, AttemptEnd.FAILED))
                .isEqualTo(new TriesAgain(RunState.BACKING_OFF, Duration.ofSeconds(10)));
        assertThat(decide(JOB, AttemptEnd.HANDED_BACK)).isEqualTo(new TriesAgain(RunState.PLANNED, Duration.ZERO));
    }

    @Test
    void aLostRunIsRunAgainUntilItHasKilledTooManyOrGivenUp() {
        AttemptEnd lost = AttemptEnd.LOST;
        assertThat(decide(JOB, lost)).isEqualTo(new TriesAgain(RunState.PLANNED, Duration.ZERO));
        assertThat(decide(JOB, lost, lost, lost, lost)).isEqualTo(new TriesAgain(RunState.PLANNED, Duration.ZERO));
        assertThat(decide(JOB, lost, lost, lost, lost, lost))
                .isEqualTo(new Ends(Outcome.LOST, Optional.of(Reason.LOST_TOO_OFTEN)));
        Job givingUp = Job.named("dues").program("true").ifLost(IfLost.GIVE_UP).build();
        assertThat(decide(givingUp, lost)).isEqualTo(new Ends(Outcome.LOST, Optional.of(Reason.INSTANCE_DIED)));
    }

    @Test
    void whatFailedInBetweenKilledNobody() {
        Job patient = Job.named("dues")
                .program("true")
                .ifFailed(IfFailed.attempts(9, Duration.ofSeconds(10)))
                .build();
        AttemptEnd lost = AttemptEnd.LOST;

        assertThat(decide(patient, lost, lost, AttemptEnd.FAILED, AttemptEnd.FAILED, lost, lost))
                .isEqualTo(new TriesAgain(RunState.PLANNED, Duration.ZERO));
    }
}
