package dev.brume.jdbc;

import java.time.Duration;
import java.util.function.BooleanSupplier;

/**
 * Whether somebody follows the feed, as a store last read it: once a second at most, so that writers pay next to nothing for it. What is
 * committed in the second after somebody begins may be missing; who follows is told of that by a reset. Safe for use by many threads.
 */
final class Feeding {
    /** For how long an answer holds. */
    private static final Duration FRESH = Duration.ofSeconds(1);

    /** How long a transaction may take from asking to its commit. */
    private final Duration commit;

    Feeding(Duration commit) {
        this.commit = commit;
    }

    private record Answer(boolean on, long nanos) {}

    private volatile Answer last = new Answer(/* on= */ false, System.nanoTime() - FRESH.toNanos());

    /** {@return whether somebody does} */
    boolean isListened(BooleanSupplier question) {
        Answer known = last;
        long now = System.nanoTime();
        if (now - known.nanos >= FRESH.toNanos()) {
            known = new Answer(question.getAsBoolean(), now);
            last = known;
        }
        return known.on;
    }

    /** {@return how long after somebody has begun to follow a transaction may still be committed that does not know it} */
    Duration settling() {
        return FRESH.plus(commit);
    }

    /** Notes that somebody does. */
    void begins() {
        last = new Answer(/* on= */ true, System.nanoTime());
    }
}
