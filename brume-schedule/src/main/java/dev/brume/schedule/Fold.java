package dev.brume.schedule;

/**
 * What happens to a local time that a zone repeats when its clocks go back.
 *
 * @since 0.1.0
 */
public enum Fold {
    /** Owed the first time only. */
    FIRST,
    /** Owed the second time only. */
    LAST,
    /** Owed both times. */
    BOTH
}
