package dev.brume.schedule;

import java.time.Instant;
import java.util.Optional;
import java.util.stream.Stream;

/**
 * Occurrences in the order of time. Implementations are immutable and safe for use by many threads.
 *
 * @since 0.1.0
 */
public interface Timeline {

    /** {@return the first occurrence strictly after an instant, empty when none follows} */
    Optional<Occurrence> next(Instant after);

    /** {@return the last occurrence strictly before an instant, empty when none precedes} */
    Optional<Occurrence> previous(Instant before);

    /** {@return the occurrences from {@code from} (inclusive) to {@code until} (exclusive), in order} */
    default Stream<Occurrence> between(Instant from, Instant until) {
        return Stream.iterate(
                next(Instants.justBefore(from)).orElse(null),
                occurrence -> occurrence != null && occurrence.instant().isBefore(until),
                occurrence -> next(occurrence.instant()).orElse(null));
    }

    /** Counts the occurrences from {@code from} (inclusive) to {@code until} (exclusive). */
    default long count(Instant from, Instant until) {
        return between(from, until).count();
    }
}
