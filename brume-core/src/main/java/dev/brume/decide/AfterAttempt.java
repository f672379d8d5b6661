package dev.brume.decide;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.IfLost;
import dev.brume.Job;
import dev.brume.Outcome;
import dev.brume.Reasons;
import dev.brume.RunState;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** What follows an attempt that has ended: the run ends too, or is tried again. */
public sealed interface AfterAttempt {

    /**
     * The run ends.
     *
     * @param outcome how
     * @param reason why, where the outcome alone does not say
     */
    record Ends(Outcome outcome, Optional<String> reason) implements AfterAttempt {}

    /**
     * The run is tried again.
     *
     * @param state where it goes
     * @param pause before it may be claimed
     */
    record TriesAgain(RunState state, Duration pause) implements AfterAttempt {}

    /**
     * Decides.
     *
     * @param job the definition the run is under
     * @param earlier the attempts before
     * @param last the attempt that has ended
     */
    static AfterAttempt decide(Job job, List<Attempt> earlier, Attempt last) {
        AttemptEnd end = last.end().orElseThrow();
        return switch (end) {
            case SUCCEEDED -> new Ends(Outcome.SUCCEEDED, Optional.empty());
            case HANDED_BACK -> new TriesAgain(RunState.PLANNED, Duration.ZERO);
            case LOST -> afterLoss(job, earlier);
            case FAILED -> afterFailure(job, earlier, Outcome.FAILED);
            case TIMED_OUT -> afterFailure(job, earlier, Outcome.TIMED_OUT);
        };
    }

    private static AfterAttempt afterLoss(Job job, List<Attempt> earlier) {
        if (job.ifLost() == IfLost.GIVE_UP) {
            return new Ends(Outcome.LOST, Optional.of(Reasons.INSTANCE_DIED));
        }
        long losses = 1
                + earlier.stream()
                        .filter(attempt -> ended(attempt, AttemptEnd.LOST))
                        .count();
        return losses >= IfLost.MOST_LOSSES
                ? new Ends(Outcome.LOST, Optional.of(Reasons.LOST_TOO_OFTEN))
                : new TriesAgain(RunState.PLANNED, Duration.ZERO);
    }

    private static AfterAttempt afterFailure(Job job, List<Attempt> earlier, Outcome outcome) {
        int failures = 1 + (int) earlier.stream().filter(Attempt::counts).count();
        return failures >= job.ifFailed().attempts()
                ? new Ends(outcome, Optional.empty())
                : new TriesAgain(RunState.BACKING_OFF, job.ifFailed().waitAfter(failures));
    }

    private static boolean ended(Attempt attempt, AttemptEnd how) {
        return attempt.end().filter(end -> end == how).isPresent();
    }

    /** Returns the attempts so far with one more at the end. */
    static List<Attempt> with(List<Attempt> earlier, Attempt last) {
        List<Attempt> all = new ArrayList<>(earlier);
        all.add(last);
        return List.copyOf(all);
    }
}
