package dev.brume.insight.board;

import dev.brume.Outcome;

/**
 * What became of an occurrence, or is to become of it, as the board shows it. What needs a person most comes first.
 *
 * @since 0.1.0
 */
public enum Fate {
    /** Nothing is on record, though it is decided. */
    UNEXPLAINED("unexplained"),
    /** Nobody could run it in time. */
    MISSED("missed"),
    /** It ran, and did not end well. */
    FAILED("failed"),
    /** It began after its tolerance. */
    LATE("late"),
    /** Somebody cancelled it. */
    CANCELLED("cancelled"),
    /** It did not run, for a reason on record. */
    SKIPPED("skipped"),
    /** It did not run, because the job was paused. */
    PAUSED("paused"),
    /** It waits for its time, a place or a worker, or is due and not planned yet. */
    WAITING("waiting"),
    /** It runs. */
    RUNNING("running"),
    /** It began in time, and ended well as far as it has ended. */
    RAN("ran"),
    /** Retention may have removed what was on record of it. */
    BEYOND("beyond retention"),
    /** It is still to come. */
    COMING("to come");

    private final String word;

    Fate(String word) {
        this.word = word;
    }

    /** {@return the fate of what has ended} */
    public static Fate of(Outcome outcome) {
        return switch (outcome) {
            case SUCCEEDED -> RAN;
            case CANCELLED -> CANCELLED;
            case SKIPPED -> SKIPPED;
            default -> FAILED;
        };
    }

    /** {@return what it is called} */
    public String word() {
        return word;
    }
}
