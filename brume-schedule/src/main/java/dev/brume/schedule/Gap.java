package dev.brume.schedule;

/** What happens to a local time that a zone skips when its clocks go forward. */
public enum Gap {
    /** Owed once, at the first instant after the gap, however many local times fell into it. */
    AFTER,
    /** Not owed at all that day. */
    SKIP
}
