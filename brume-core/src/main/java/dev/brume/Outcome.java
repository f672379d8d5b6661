package dev.brume;

/**
 * How a run ended, or why it never began.
 *
 * @since 0.1.0
 */
public enum Outcome {
    /** The work returned, or the program exited with 0. */
    SUCCEEDED,
    /** The last attempt allowed threw, or exited with another code. */
    FAILED,
    /** The last attempt allowed outran its time limit. */
    TIMED_OUT,
    /** Someone called it off. */
    CANCELLED,
    /** It was never started; the reason says why. */
    SKIPPED,
    /** Its instance died and the job does not want it run again. */
    LOST
}
