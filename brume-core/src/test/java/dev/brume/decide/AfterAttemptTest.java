package dev.brume.decide;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.IfFailed;
import dev.brume.IfLost;
import dev.brume.Job;
import dev.brume.Outcome;
import dev.brume.Reasons;
import dev.brume.RunState;
import dev.brume.decide.AfterAttempt.Ends;
import dev.brume.decide.AfterAttempt.TriesAgain;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.junit.jupiter.api.Test;

class AfterAttemptTest {
    private static final Job JOB = Job.named("dues")
            .program("true")
            .ifFailed(IfFailed.attempts(3, Duration.ofSeconds(10)).growing(3, Duration.ofSeconds(20)))
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
                Optional.empty());
    }

    private static AfterAttempt decide(Job job, AttemptEnd... ends) {
        List<Attempt> all = new ArrayList<>();
        for (AttemptEnd end : ends) {
            all.add(attempt(end));
        }
        return AfterAttempt.decide(job, all.subList(0, all.size() - 1), all.get(all.size() - 1));
    }

    @Test
    void failuresAreTriedAgainWithGrowingWaitsUntilTheAttemptsAreUsedUp() {
        AttemptEnd failed = AttemptEnd.FAILED;
        assertThat(decide(JOB, failed)).isEqualTo(new TriesAgain(RunState.BACKING_OFF, Duration.ofSeconds(10)));
        assertThat(decide(JOB, failed, failed)).isEqualTo(new TriesAgain(RunState.BACKING_OFF, Duration.ofSeconds(20)));
        assertThat(decide(JOB, failed, failed, failed)).isEqualTo(new Ends(Outcome.FAILED, Optional.empty()));
        assertThat(decide(JOB, failed, failed, AttemptEnd.TIMED_OUT))
                .isEqualTo(new Ends(Outcome.TIMED_OUT, Optional.empty()));
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
                .isEqualTo(new Ends(Outcome.LOST, Optional.of(Reasons.LOST_TOO_OFTEN)));
        Job givingUp = Job.named("dues").program("true").ifLost(IfLost.GIVE_UP).build();
        assertThat(decide(givingUp, lost)).isEqualTo(new Ends(Outcome.LOST, Optional.of(Reasons.INSTANCE_DIED)));
    }
}
