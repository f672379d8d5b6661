package dev.brume.schedule;

/** How day-of-month and day-of-week combine when a cron expression restricts both. */
public enum Days {
    /** A day matches when either field does, as POSIX has it. */
    EITHER,
    /** A day matches only when both fields do. */
    BOTH
}
