package dev.brume;

/**
 * The cause of a run: the schedule or the order that it is owed to.
 *
 * @since 0.1.0
 */
public enum Origin {
    /** An occurrence of one of the job's schedules. */
    SCHEDULE,
    /** A catch-up of an occurrence that was missed. */
    CATCH_UP,
    /** A one-off that someone ordered by a key. */
    ONE_OFF,
    /** An order to run the job now. */
    BY_HAND,
    /** An order to run once more what an earlier run was owed to. */
    RERUN,
    /** An order to make up for what the schedule owed in a period. */
    BACKFILL,
    /** The end of another job's run, which this one follows. */
    FOLLOW_UP
}
