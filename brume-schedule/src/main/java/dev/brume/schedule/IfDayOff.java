package dev.brume.schedule;

/**
 * What becomes of an occurrence whose day is excluded by a calendar, or not among those required.
 *
 * @since 0.1.0
 */
public enum IfDayOff {
    /** It is not owed. */
    SKIP,
    /** It is owed on the next working day, at the same time of day. */
    NEXT,
    /** It is owed on the working day before, at the same time of day. */
    PREVIOUS
}
