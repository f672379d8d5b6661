package dev.brume.schedule;

/** What a policy did to an occurrence. */
public enum Note {
    /** The local time did not exist that day; it is owed at the first instant after the gap. */
    AFTER_GAP,
    /** The local time came twice that day; this is the first of the two. */
    FIRST_OF_FOLD,
    /** The local time came twice that day; this is the second of the two. */
    SECOND_OF_FOLD
}
