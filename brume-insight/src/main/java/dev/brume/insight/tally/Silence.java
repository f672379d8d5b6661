package dev.brume.insight.tally;

import dev.brume.history.Successes;
import java.time.Duration;
import java.time.Instant;
import java.util.Comparator;
import java.util.List;

/**
 * The longest stretch without the start of a run that succeeded, found among single starts and such whose own longest stretch is all that is known.
 * Confined to one thread.
 */
final class Silence {
    private Instant last;
    private Duration longest = Duration.ZERO;
    private Duration atMost = Duration.ZERO;

    /**
     * Begins to look.
     *
     * @param begin from where on silence counts
     */
    Silence(Instant begin) {
        this.last = begin;
    }

    void add(List<Successes> successes) {
        List<Successes> sorted = successes.stream()
                .sorted(Comparator.comparing(Successes::first))
                .toList();
        int i = 0;
        while (i < sorted.size()) {
            Successes together = sorted.get(i++);
            while (i < sorted.size() && sorted.get(i).first().isBefore(together.last())) {
                together = together.plus(sorted.get(i++));
            }
            end(together.first());
            longest = longer(longest, together.longest());
            atMost = longer(atMost, together.atMost());
            last = together.last().isAfter(last) ? together.last() : last;
        }
    }

    /** A start, or the end of the period. */
    void end(Instant mark) {
        longest = longer(longest, Duration.between(last, mark));
        atMost = longer(atMost, longest);
    }

    private static Duration longer(Duration a, Duration b) {
        return a.compareTo(b) >= 0 ? a : b;
    }

    /** Whether nothing of which little is known may hold a longer one. */
    boolean isKnown() {
        return longest.equals(atMost);
    }

    Duration longest() {
        return longest;
    }
}
