package dev.brume.schedule;

import dev.brume.schedule.Stretches.Stretch;
import dev.brume.schedule.ZoneSegments.Segment;
import java.time.Instant;
import java.util.Objects;
import java.util.Optional;

/**
 * The occurrences of a schedule whose wall-clock time lies in certain stretches.
 *
 * <p>Between stretches it jumps, a segment of the zone at a time, so that a dense schedule costs no more
 * than a sparse one. Immutable and safe for use by many threads.
 */
final class StretchFilter implements Timeline {
    /** A search that meets so many occurrences outside, one stretch after the other, is given up. */
    private static final int MOST_TRIES = 40_000;

    private final Timeline inner;
    private final Stretches stretches;
    private final ZoneSegments segments;

    StretchFilter(Timeline inner, Stretches stretches, ZoneSegments segments) {
        this.inner = inner;
        this.stretches = stretches;
        this.segments = segments;
    }

    @Override
    public Optional<Occurrence> next(Instant after) {
        Optional<Occurrence> found = inner.next(after);
        for (int tries = 0; tries < MOST_TRIES && found.isPresent(); tries++) {
            long second = found.get().instant().getEpochSecond();
            Segment segment = segments.at(second);
            Stretch stretch = stretches.endingAfter(second + segment.offset());
            if (stretch == null) {
                return Optional.empty();
            }
            if (stretch.start() <= second + segment.offset()) {
                return found;
            }
            long jump = Math.min(stretch.start() - segment.offset(), segment.end());
            found = inner.next(Instants.justBefore(Instant.ofEpochSecond(jump)));
        }
        return Optional.empty();
    }

    @Override
    public Optional<Occurrence> previous(Instant before) {
        Optional<Occurrence> found = inner.previous(before);
        for (int tries = 0; tries < MOST_TRIES && found.isPresent(); tries++) {
            long second = found.get().instant().getEpochSecond();
            Segment segment = segments.at(second);
            Stretch stretch = stretches.startingBefore(second + segment.offset() + 1);
            if (stretch == null) {
                return Optional.empty();
            }
            if (second + segment.offset() < stretch.end()) {
                return found;
            }
            long jump = Math.max(stretch.end() - segment.offset(), segment.start());
            found = inner.previous(Instant.ofEpochSecond(jump));
        }
        return Optional.empty();
    }

    @Override
    public long count(Instant from, Instant until) {
        long count = 0;
        Optional<Occurrence> first = next(Instants.justBefore(from));
        while (first.isPresent() && first.get().instant().isBefore(until)) {
            Instant at = first.get().instant();
            Segment segment = segments.at(at.getEpochSecond());
            Stretch stretch = Objects.requireNonNull(
                    stretches.endingAfter(at.getEpochSecond() + segment.offset()), "next answers inside a stretch");
            Instant end = Instant.ofEpochSecond(Math.min(stretch.end() - segment.offset(), segment.end()));
            Instant stop = end.isBefore(until) ? end : until;
            count += inner.count(at, stop);
            first = next(Instants.justBefore(stop));
        }
        return count;
    }

    /** The first instant at or after one that lies in a stretch; empty if none is in reach. */
    static Optional<Instant> firstInside(Instant from, Stretches stretches, ZoneSegments segments) {
        Instant at = from;
        for (int tries = 0; tries < 1000; tries++) {
            Segment segment = segments.at(at.getEpochSecond());
            Stretch stretch = stretches.endingAfter(at.getEpochSecond() + segment.offset());
            if (stretch == null) {
                return Optional.empty();
            }
            if (stretch.start() <= at.getEpochSecond() + segment.offset()) {
                return Optional.of(at);
            }
            at = Instant.ofEpochSecond(Math.min(stretch.start() - segment.offset(), segment.end()));
        }
        return Optional.empty();
    }
}
