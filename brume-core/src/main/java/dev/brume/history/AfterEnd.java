package dev.brume.history;

import java.time.Instant;
import java.util.Optional;

/**
 * The state of an {@code afterEnd} schedule: it is either due at some time, or waits for a run to end.
 *
 * @param due when its next occurrence is owed
 * @param run whose end it waits for
 * @since 0.1.0
 */
public record AfterEnd(Optional<Instant> due, Optional<Long> run) {

    /** Due at an instant. */
    public static AfterEnd due(Instant at) {
        return new AfterEnd(Optional.of(at), Optional.empty());
    }

    /** Waiting for the end of a run. */
    public static AfterEnd waiting(long run) {
        return new AfterEnd(Optional.empty(), Optional.of(run));
    }

    /** A schedule that owes nothing more. */
    public static AfterEnd over() {
        return new AfterEnd(Optional.empty(), Optional.empty());
    }
}
