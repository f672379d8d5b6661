package dev.brume.schedule;

/**
 * How day-of-month and day-of-week combine when a cron expression restricts both.
 *
 * @since 0.1.0
 */
public enum Days {
    /** A day matches when either field does, as POSIX has it. */
    EITHER,
    /** A day matches only when both fields do. */
    BOTH
}
