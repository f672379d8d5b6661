package dev.brume.schedule;

/** What happens to a local time that a zone repeats when its clocks go back. */
public enum Fold {
    /** Owed the first time only. */
    FIRST,
    /** Owed the second time only. */
    LAST,
    /** Owed both times. */
    BOTH
}
