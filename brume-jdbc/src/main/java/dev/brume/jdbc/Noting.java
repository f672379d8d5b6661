package dev.brume.jdbc;

import dev.brume.spi.Notable;
import java.time.Duration;
import java.util.Set;
import java.util.function.Supplier;

/**
 * What is noted when it happens, as a store last read it: once a second at most, so that writers pay next to nothing for it. Safe for use by many
 * threads.
 */
final class Noting {
    /** For how long an answer holds. */
    private static final Duration FRESH = Duration.ofSeconds(1);

    private record Answer(Set<Notable.Kind> wanted, long nanos) {}

    private volatile Answer last = new Answer(Set.of(), System.nanoTime() - FRESH.toNanos());

    /** {@return what is wanted} */
    Set<Notable.Kind> wanted(Supplier<Set<Notable.Kind>> question) {
        Answer known = last;
        long now = System.nanoTime();
        if (now - known.nanos >= FRESH.toNanos()) {
            known = new Answer(question.get(), now);
            last = known;
        }
        return known.wanted;
    }

    /** Asks anew, for something may have changed. */
    void forget() {
        last = new Answer(last.wanted, System.nanoTime() - FRESH.toNanos());
    }
}
