package dev.brume.schedule;

/**
 * What happens to a local time that a zone skips when its clocks go forward.
 *
 * @since 0.1.0
 */
public enum Gap {
    /** Owed once, at the first instant after the gap, however many local times fell into it. */
    AFTER,
    /** Not owed at all that day. */
    SKIP
}
