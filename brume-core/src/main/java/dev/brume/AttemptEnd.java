package dev.brume;

/**
 * How one attempt of a run ended.
 *
 * @since 0.1.0
 */
public enum AttemptEnd {
    /** The work returned, or the program exited with 0. */
    SUCCEEDED,
    /** The work threw, or the program exited with another code or could not be started. */
    FAILED,
    /** The time limit was over. */
    TIMED_OUT,
    /** The instance stopped and gave the run back; does not count as an attempt. */
    HANDED_BACK,
    /** It ended early because someone had cancelled the run. */
    CANCELLED,
    /** It ended early because a newer run of the job took its place. */
    SUPERSEDED,
    /** A check turned it down before the work began. */
    TURNED_DOWN,
    /** The instance died, or lost its lease. */
    LOST
}
