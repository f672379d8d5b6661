package dev.brume.history;

import java.time.Duration;
import java.time.Instant;

/**
 * When the runs began that succeeded, of some that were planned close to one another.
 *
 * @param first when the first of them began
 * @param last when the last of them did
 * @param longest the longest stretch between two of them
 * @param atMost the same where that is not known precisely, as when some began between others: it is not longer than this, and
 *     {@code longest} may be shorter than it is
 * @since 0.1.0
 */
public record Successes(Instant first, Instant last, Duration longest, Duration atMost) {

    /** {@return a single one} */
    public static Successes at(Instant began) {
        return new Successes(began, began, Duration.ZERO, Duration.ZERO);
    }

    /** {@return these and some others} */
    public Successes plus(Successes others) {
        if (others.first.isBefore(first)) {
            return others.plus(this);
        }
        Instant end = others.last.isAfter(last) ? others.last : last;
        Duration most = longer(atMost, others.atMost);
        if (others.first.isBefore(last)) {
            // Each stretch without one of both is part of a stretch without one of either; more cannot be said.
            return new Successes(first, end, Duration.ZERO, most);
        }
        Duration between = Duration.between(last, others.first);
        return new Successes(first, end, longer(longer(longest, others.longest), between), longer(most, between));
    }

    private static Duration longer(Duration a, Duration b) {
        return a.compareTo(b) >= 0 ? a : b;
    }
}
