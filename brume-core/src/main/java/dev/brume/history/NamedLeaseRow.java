package dev.brume.history;

import java.time.Instant;

/**
 * A lease by name.
 *
 * @param name unique
 * @param holder the instance that has it, or had it last
 * @param fence of this lease
 * @param takenAt when it was taken
 * @param renewedAt when it was renewed last
 * @param until when it ends unless renewed, exclusive; when it was given back, if it was
 * @param freeAt from when it can be taken again: then, or once its cool-down is over
 * @since 0.1.0
 */
public record NamedLeaseRow(
        String name, String holder, long fence, Instant takenAt, Instant renewedAt, Instant until, Instant freeAt) {
    /** The states of a named lease. */
    public enum State {
        /** Someone has it. */
        HELD,
        /** It was given back, and cannot be had again yet. */
        COOLING,
        /** Anyone may take it. */
        FREE
    }

    /** {@return where it stands at an instant} */
    public State state(Instant now) {
        if (until.isAfter(now)) {
            return State.HELD;
        }
        return freeAt.isAfter(now) ? State.COOLING : State.FREE;
    }

    /** {@return it held for longer} */
    public NamedLeaseRow renewed(Instant now, Instant newUntil) {
        return new NamedLeaseRow(name, holder, fence, takenAt, now, newUntil, newUntil);
    }

    /** {@return it given back} */
    public NamedLeaseRow released(Instant now, Instant free) {
        return new NamedLeaseRow(name, holder, fence, takenAt, renewedAt, now, free);
    }
}
