package dev.brume.insight.tally;

/** What became of an occurrence that a schedule owed. */
public enum Verdict {
    /** A run began within the tolerance of the definition in force. */
    ON_TIME,
    /** A run began after that. */
    LATE,
    /** A run was cancelled, lost or skipped before it began, for the reason on record. */
    SKIPPED,
    /** It lies in a span of occurrences that were passed over together, for the reason on record. */
    PASSED_OVER,
    /** A run waits for its time, a place or a worker. */
    WAITING,
    /** Retention may have removed what was on record of it. */
    BEYOND_RETENTION,
    /** It is due, and the cursor has not come so far yet. */
    NOT_YET,
    /** Nothing is on record, though the cursor has passed it. */
    UNEXPLAINED
}
