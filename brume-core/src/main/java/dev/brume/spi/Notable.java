package dev.brume.spi;

import dev.brume.Outcome;
import dev.brume.Reason;
import java.time.Instant;
import java.util.Optional;

/**
 * Something that happened and that a rule may want told.
 *
 * @param kind what happened
 * @param job whose
 * @param run which run; empty for occurrences that never had one
 * @param planned for when
 * @param attempt which attempt; 0 if none was begun
 * @param instance on which instance
 * @param at when, where that is known
 * @param count how many occurrences
 * @param tookMillis how long the attempt took, in milliseconds; -1 if that is not known
 * @param reason why, by its name
 * @param error the first line of what it said
 * @since 0.1.0
 */
public record Notable(
        Kind kind,
        long job,
        Optional<Long> run,
        Optional<Instant> planned,
        int attempt,
        Optional<String> instance,
        Optional<Instant> at,
        long count,
        long tookMillis,
        Optional<String> reason,
        Optional<String> error) {

    /** What can happen. */
    public enum Kind {
        /** An attempt failed and the run is tried again. */
        ATTEMPT_FAILED,
        /** An attempt was lost with its instance, and the run is tried again. */
        TAKEN_OVER,
        /** A run failed for good. */
        FAILED,
        /** A run timed out for good. */
        TIMED_OUT,
        /** A run was lost for good. */
        LOST,
        /** An occurrence was skipped. */
        SKIPPED,
        /** Occurrences were passed over. */
        PASSED_OVER,
        /** A run succeeded. */
        SUCCEEDED;

        /** {@return what an outcome is; empty for one that nobody is told} */
        public static Optional<Kind> of(Outcome outcome) {
            return switch (outcome) {
                case SUCCEEDED -> Optional.of(SUCCEEDED);
                case FAILED -> Optional.of(FAILED);
                case TIMED_OUT -> Optional.of(TIMED_OUT);
                case LOST -> Optional.of(LOST);
                case SKIPPED -> Optional.of(SKIPPED);
                case CANCELLED -> Optional.empty();
            };
        }
    }

    /** {@return whether somebody wanted it so: a pause, an order, or a job that was dropped; whoever did that knows} */
    public static boolean isWished(Optional<Reason> reason) {
        return reason.filter(each -> each == Reason.PAUSED || each == Reason.BY_HAND || each == Reason.JOB_DROPPED)
                .isPresent();
    }

    /** {@return whether it was missed} */
    public boolean isMissed() {
        return reason.filter(Reason.MISSED.name()::equals).isPresent();
    }
}
