package dev.brume.schedule;

import java.time.Instant;
import java.time.ZoneId;
import java.util.Optional;
import java.util.stream.Stream;

/**
 * A rule that owes occurrences.
 *
 * <p>Implementations are immutable and safe for use by many threads.
 */
public interface Schedule {

    /** Returns the first occurrence strictly after an instant, empty when none follows. */
    Optional<Occurrence> next(Instant after);

    /** Returns the last occurrence strictly before an instant, empty when none precedes. */
    Optional<Occurrence> previous(Instant before);

    /** Returns the zone in which the rule is evaluated and its local times are shown. */
    ZoneId zone();

    /** Returns the rule as one English sentence without a full stop. */
    String words();

    /** Returns the occurrences from {@code from} (inclusive) to {@code until} (exclusive), in order. */
    default Stream<Occurrence> between(Instant from, Instant until) {
        return Stream.iterate(
                next(from.minusNanos(1)).orElse(null),
                occurrence -> occurrence != null && occurrence.instant().isBefore(until),
                occurrence -> next(occurrence.instant()).orElse(null));
    }

    /** Counts the occurrences from {@code from} (inclusive) to {@code until} (exclusive). */
    default long count(Instant from, Instant until) {
        return between(from, until).count();
    }
}
