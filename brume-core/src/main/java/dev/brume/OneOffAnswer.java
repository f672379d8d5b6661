package dev.brume;

import java.util.Optional;

/**
 * What became of an order about a one-off.
 *
 * @param kind what happened
 * @param run the run that the one-off becomes, or became; empty where there is none. Of an order within a transaction of the caller's it is
 *     valid once that has committed
 * @since 0.1.0
 */
public record OneOffAnswer(Kind kind, Optional<RunHandle> run) {

    /** What can happen. */
    public enum Kind {
        /** It is ordered; an earlier one of its key, if there was one, has become a run already. */
        ADDED,
        /** The one that waits was given another instant, payload or key. */
        MOVED,
        /** The one that waits is just that already. */
        UNCHANGED,
        /** It waits no more, and nothing runs. */
        DROPPED,
        /** One of that key waits, for another instant or with another payload; nothing is changed. */
        ALREADY_WAITS,
        /** The run of that key and instant has been made already, or the run of the one that was meant; nothing is changed. */
        ALREADY_RAN,
        /** The order of that order key was given already; nothing is changed. */
        ALREADY_ORDERED,
        /** None of that key is known. */
        NOT_THERE
    }

    /** {@return whether the order changed anything} */
    public boolean changed() {
        return switch (kind) {
            case ADDED, MOVED, DROPPED -> true;
            case UNCHANGED, ALREADY_WAITS, ALREADY_RAN, ALREADY_ORDERED, NOT_THERE -> false;
        };
    }
}
