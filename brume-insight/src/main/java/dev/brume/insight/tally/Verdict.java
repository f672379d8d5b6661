package dev.brume.insight.tally;

/**
 * The fate of an occurrence that a schedule owed.
 *
 * @since 0.1.0
 */
public enum Verdict {
    /** A run began within the tolerance of the definition in force. */
    ON_TIME,
    /** A run began after that. */
    LATE,
    /** It did not run, for a reason on record that lies in the job or with a person. */
    SKIPPED,
    /** It did not run, because nobody could run it in time. */
    MISSED,
    /** It did not run, because the job was paused. */
    PAUSED,
    /** A run waits for its time, a place or a worker. */
    WAITING,
    /** Retention may have removed what was on record of it. */
    BEYOND_RETENTION,
    /** It is due, and the cursor has not come so far yet. */
    NOT_YET,
    /** Nothing is on record, though the cursor has passed it. */
    UNEXPLAINED
}
