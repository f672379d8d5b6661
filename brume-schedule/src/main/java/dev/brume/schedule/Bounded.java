package dev.brume.schedule;

import java.time.Instant;
import java.util.Optional;

/** The occurrences from an instant (inclusive) to another (exclusive). */
final class Bounded implements Timeline {
    private final Timeline inner;
    private final Instant begin;
    private final Instant end;

    Bounded(Timeline inner, Instant begin, Instant end) {
        this.inner = inner;
        this.begin = begin;
        this.end = end;
    }

    @Override
    public Optional<Occurrence> next(Instant after) {
        Instant from = after.isBefore(begin) ? Instants.justBefore(begin) : after;
        return inner.next(from).filter(found -> found.instant().isBefore(end));
    }

    @Override
    public Optional<Occurrence> previous(Instant before) {
        Instant until = before.isAfter(end) ? end : before;
        return inner.previous(until).filter(found -> !found.instant().isBefore(begin));
    }

    @Override
    public long count(Instant from, Instant until) {
        Instant first = from.isBefore(begin) ? begin : from;
        Instant stop = until.isAfter(end) ? end : until;
        return first.isBefore(stop) ? inner.count(first, stop) : 0;
    }
}
