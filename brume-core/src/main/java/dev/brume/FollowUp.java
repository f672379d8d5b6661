package dev.brume;

import java.util.Objects;

/**
 * A job whose run is owed to the end of another job's run.
 *
 * @param on which ends it follows
 * @param job that is run then
 * @since 0.1.0
 */
public record FollowUp(On on, JobName job) {

    /** Which ends are followed. Occurrences that were skipped never ran, so nothing follows them. */
    public enum On {
        /** The run succeeded. */
        SUCCESS,
        /** The run failed, ran into its time limit, or was lost. */
        FAILURE,
        /** The run ended, in whatever way; cancelled runs too. */
        END
    }

    /** Creates a follow-up. */
    public FollowUp {
        Objects.requireNonNull(on, "on");
        Objects.requireNonNull(job, "job");
    }

    /** {@return whether it follows an end} */
    public boolean follows(Outcome outcome) {
        return switch (outcome) {
            case SUCCEEDED -> on != On.FAILURE;
            case FAILED, TIMED_OUT, LOST -> on != On.SUCCESS;
            case CANCELLED -> on == On.END;
            case SKIPPED -> false;
        };
    }
}
