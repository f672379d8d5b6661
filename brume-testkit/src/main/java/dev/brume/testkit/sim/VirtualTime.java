package dev.brume.testkit.sim;

import dev.brume.port.TimeSource;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.PriorityQueue;
import java.util.stream.Stream;

/** Time that moves only from one planned action to the next. Confined to one thread. */
final class VirtualTime {
    private final Instant begin;
    private final PriorityQueue<Planned> queue =
            new PriorityQueue<>(Comparator.comparingLong(Planned::nanos).thenComparingLong(Planned::order));
    private final List<Reading> readings = new ArrayList<>();
    private Duration databaseOff = Duration.ZERO;
    private long nanos;
    private long order;

    private record Planned(long nanos, long order, Runnable action) {}

    VirtualTime(Instant begin) {
        this.begin = begin;
    }

    /** Plans an action; those of the same moment happen in the order they were planned. */
    void after(long delayNanos, Runnable action) {
        queue.add(new Planned(nanos + Math.max(0, delayNanos), order++, action));
    }

    /** Moves to the next action and does it; false if none is left before a moment. */
    boolean step(long untilNanos) {
        Planned next = queue.peek();
        if (next == null || next.nanos() > untilNanos) {
            return false;
        }
        queue.remove();
        nanos = Math.max(nanos, next.nanos());
        next.action().run();
        return true;
    }

    /** Lets time pass in the middle of an action; what was due meanwhile is done late. */
    void drag(long more) {
        nanos += more;
    }

    long nanos() {
        return nanos;
    }

    /** What the time really is. */
    Instant truth() {
        return begin.plusNanos(nanos);
    }

    /** What the store's clock reads. */
    Instant database() {
        return truth().plus(databaseOff);
    }

    /** Makes the store's clock jump to so far off the truth. */
    void databaseOff(Duration off) {
        readings.add(new Reading(nanos, database()));
        databaseOff = off;
        readings.add(new Reading(nanos, database()));
    }

    /** {@return the earliest that the store's clock read within a while up to now} */
    Instant earliestLately(Duration lately) {
        return Stream.concat(
                        Stream.of(database()),
                        readings.stream()
                                .filter(reading -> nanos - reading.nanos <= lately.toNanos())
                                .map(Reading::clock))
                .min(Comparator.naturalOrder())
                .orElseThrow();
    }

    private record Reading(long nanos, Instant clock) {}

    /**
     * {@return the clocks of one machine}
     *
     * @param skew of its wall clock
     * @param drift of its monotonic clock, in parts per million
     */
    TimeSource machine(Duration skew, int drift) {
        return new TimeSource() {
            @Override
            public long nanos() {
                return nanos + nanos / 1_000_000 * drift;
            }

            @Override
            public Instant wall() {
                return truth().plus(skew);
            }
        };
    }
}
