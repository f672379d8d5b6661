package dev.brume;

/** What a run is owed to. */
public enum Origin {
    /** An occurrence of one of the job's schedules. */
    SCHEDULE,
    /** A catch-up of an occurrence that was missed. */
    CATCH_UP,
    /** A one-off that someone ordered by a key. */
    ONE_OFF
}
