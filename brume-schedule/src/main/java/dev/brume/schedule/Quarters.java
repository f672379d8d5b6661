package dev.brume.schedule;

import dev.brume.schedule.ZoneSegments.Segment;
import java.time.Instant;
import java.util.List;
import java.util.Optional;

/**
 * Counts what several wall clocks owe together, a quarter of an hour at a time: what a quarter holds is laid over one another, so that an instant
 * that several share counts once. Near changes of the clocks, and at the ends, occurrences are looked at one by one. Confined to one thread.
 */
final class Quarters {
    private static final int UNKNOWN = -1;

    private final Timeline all;
    private final List<Calm> clocks;
    private final long[] together = Marks.empty();

    private Quarters(Timeline all, List<WallClock> clocks) {
        this.all = all;
        this.clocks = clocks.stream().map(Calm::new).toList();
    }

    /**
     * Counts from {@code from} (inclusive) to {@code until} (exclusive).
     *
     * @param all the occurrences of all the clocks
     */
    static long count(Timeline all, List<WallClock> clocks, Instant from, Instant until) {
        return new Quarters(all, clocks).count(from, until);
    }

    private long count(Instant from, Instant until) {
        long first = Math.max(WallClock.ceil(from), ZoneSegments.FIRST + 1);
        long end = Math.min(WallClock.ceil(until), ZoneSegments.LAST);
        long total = 0;
        long at = first;
        while (at < end) {
            long quarter = Math.floorDiv(at, (long) Marks.SECONDS) * Marks.SECONDS;
            long next = quarter + Marks.SECONDS;
            long here = at == quarter && next <= end ? marked(at) : UNKNOWN;
            if (here == UNKNOWN) {
                next = Math.min(next, end);
                here = all.between(Instant.ofEpochSecond(at), Instant.ofEpochSecond(next))
                        .count();
            }
            total += here;
            at = here > 0 ? next : quarterOfNext(next, end);
        }
        return total;
    }

    /** Where nothing is owed for long, the time until then is leapt over. */
    private long quarterOfNext(long at, long end) {
        Optional<Occurrence> next = all.next(Instant.ofEpochSecond(at).minusNanos(1));
        long found =
                next.map(occurrence -> occurrence.instant().getEpochSecond()).orElse(end);
        return Math.max(at, Math.floorDiv(found, (long) Marks.SECONDS) * Marks.SECONDS);
    }

    private int marked(long quarter) {
        Marks.clear(together);
        for (Calm clock : clocks) {
            if (!clock.holds(quarter)) {
                return UNKNOWN;
            }
            Marks.add(together, clock.marks(quarter));
        }
        return Marks.count(together);
    }

    /** A stretch of one clock in which local time runs evenly, with no gap or fold in or near it. */
    private static final class Calm {
        private final LocalTimes times;
        private final ZoneSegments segments;
        private long from;
        private long until;
        private int offset;

        Calm(WallClock clock) {
            this.times = clock.times();
            this.segments = ZoneSegments.of(clock.zone());
        }

        boolean holds(long quarter) {
            if (quarter < from || quarter + Marks.SECONDS > until) {
                Segment segment = segments.at(quarter);
                offset = segment.offset();
                from = segment.start() + Math.abs(offset - segment.offsetBefore());
                until = segment.end() - Math.abs(offset - segment.offsetAfter());
            }
            return quarter >= from && quarter + Marks.SECONDS <= until && offset % Marks.SECONDS == 0;
        }

        long[] marks(long quarter) {
            return times.quarter(Math.floorDiv(quarter + offset, (long) Marks.SECONDS));
        }
    }
}
