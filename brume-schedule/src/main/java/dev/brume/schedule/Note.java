package dev.brume.schedule;

/**
 * What a policy did to an occurrence.
 *
 * @since 0.1.0
 */
public enum Note {
    /** Its day is off; it is owed on a neighbouring working day at the same time of day. */
    MOVED,
    /** Another occurrence was moved to this very time; the two are owed once. */
    MERGED,
    /** The local time did not exist that day; it is owed at the first instant after the gap. */
    AFTER_GAP,
    /** The local time came twice that day; this is the first of the two. */
    FIRST_OF_FOLD,
    /** The local time came twice that day; this is the second of the two. */
    SECOND_OF_FOLD,
    /** It is owed later than the rule says by the job's spread. */
    SPREAD,
    /** Its time depends on when the run before it ends. */
    ESTIMATED
}
