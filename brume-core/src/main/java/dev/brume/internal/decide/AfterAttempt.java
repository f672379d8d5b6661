package dev.brume.internal.decide;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Failure;
import dev.brume.IfFailed;
import dev.brume.IfLost;
import dev.brume.Job;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.RunState;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** The consequence of an attempt's end: the run ends too, or is tried again. */
public sealed interface AfterAttempt {
    /** The longest wait that the other side of a failed attempt may ask for. */
    Duration LONGEST_ASKED = Duration.ofDays(1);

    /**
     * The run ends.
     *
     * @param outcome how
     * @param reason why, where the outcome alone does not say
     */
    record Ends(Outcome outcome, Optional<Reason> reason) implements AfterAttempt {}

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
     * @param failure why, if it failed
     * @param run its id, which decides how its waits are shortened
     */
    static AfterAttempt decide(Job job, List<Attempt> earlier, Attempt last, Failure failure, long run) {
        AttemptEnd end = last.end().orElseThrow();
        return switch (end) {
            case SUCCEEDED -> new Ends(Outcome.SUCCEEDED, Optional.empty());
            case HANDED_BACK -> new TriesAgain(RunState.PLANNED, Duration.ZERO);
            case CANCELLED -> new Ends(Outcome.CANCELLED, Optional.of(Reason.BY_HAND));
            case SUPERSEDED -> new Ends(Outcome.CANCELLED, Optional.of(Reason.SUPERSEDED));
            case TURNED_DOWN -> new Ends(Outcome.SKIPPED, Optional.of(Reason.TURNED_DOWN));
            case LOST -> afterLoss(job, earlier);
            case FAILED -> afterFailure(job, earlier, Outcome.FAILED, failure, run);
            case TIMED_OUT -> afterFailure(job, earlier, Outcome.TIMED_OUT, failure, run);
        };
    }

    private static AfterAttempt afterLoss(Job job, List<Attempt> earlier) {
        if (job.ifLost() == IfLost.GIVE_UP) {
            return new Ends(Outcome.LOST, Optional.of(Reason.INSTANCE_DIED));
        }
        long losses = 1
                + earlier.stream()
                        .filter(attempt -> ended(attempt, AttemptEnd.LOST))
                        .count();
        return losses >= IfLost.MOST_LOSSES
                ? new Ends(Outcome.LOST, Optional.of(Reason.LOST_TOO_OFTEN))
                : new TriesAgain(RunState.PLANNED, Duration.ZERO);
    }

    private static AfterAttempt afterFailure(
            Job job, List<Attempt> earlier, Outcome outcome, Failure failure, long run) {
        IfFailed policy = job.ifFailed();
        int failures = 1 + (int) earlier.stream().filter(Attempt::counts).count();
        if (failure.finalReason().isPresent()) {
            return new Ends(outcome, failure.finalReason());
        }
        if (failures >= policy.attempts()) {
            return new Ends(outcome, Optional.of(Reason.NO_ATTEMPT_LEFT));
        }
        if (outcome == Outcome.FAILED && !policy.isPassing(failure)
                || policy.giveUpOn().matches(failure)) {
            return new Ends(outcome, Optional.of(Reason.FINAL_FAILURE));
        }
        Duration wait = policy.waitAfter(failures, run);
        Duration asked = failure.pause().map(AfterAttempt::bounded).orElse(Duration.ZERO);
        return new TriesAgain(RunState.BACKING_OFF, wait.compareTo(asked) > 0 ? wait : asked);
    }

    /** Nobody on the other side puts a run off for ever. */
    private static Duration bounded(Duration asked) {
        return asked.compareTo(LONGEST_ASKED) > 0 ? LONGEST_ASKED : asked;
    }

    private static boolean ended(Attempt attempt, AttemptEnd how) {
        return attempt.end().filter(end -> end == how).isPresent();
    }

    /** {@return the attempts so far with one more at the end} */
    static List<Attempt> with(List<Attempt> earlier, Attempt last) {
        List<Attempt> all = new ArrayList<>(earlier);
        all.add(last);
        return List.copyOf(all);
    }
}
