package dev.brume.insight.internal;

import dev.brume.spi.TimeSource;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Comparator;
import java.util.Objects;
import java.util.PriorityQueue;

/**
 * Time that moves only from one planned action to the next; wall clock, database's clock and elapsed time agree. Confined to
 * one thread.
 */
public final class VirtualTime implements TimeSource, InstantSource {
    private final Instant begin;
    private final PriorityQueue<Planned> queue =
            new PriorityQueue<>(Comparator.comparingLong(Planned::nanos).thenComparingLong(Planned::order));
    private long nanos;
    private long order;

    private record Planned(long nanos, long order, Runnable action) {}

    /** Begins at an instant. */
    public VirtualTime(Instant begin) {
        this.begin = Objects.requireNonNull(begin, "begin");
    }

    /** Plans an action; those of the same moment happen in the order they were planned. A delay below zero is none. */
    public void after(long delayNanos, Runnable action) {
        queue.add(new Planned(nanos + Math.max(0, delayNanos), order++, action));
    }

    /** Moves to the next action and does it; false, and no move, if none is left up to a moment, inclusive. */
    public boolean step(long untilNanos) {
        Planned next = queue.peek();
        if (next == null || next.nanos() > untilNanos) {
            return false;
        }
        queue.remove();
        nanos = Math.max(nanos, next.nanos());
        next.action().run();
        return true;
    }

    /** Does everything planned up to a moment, inclusive, and moves there. */
    public void advanceTo(Instant until) {
        long last = nanosAt(until);
        boolean more = true;
        while (more) {
            more = step(last);
        }
        nanos = Math.max(nanos, last);
    }

    /** Lets time pass in the middle of an action; what was due meanwhile is done late. */
    public void drag(long more) {
        nanos += more;
    }

    /** {@return what {@link #nanos} reads at an instant} */
    public long nanosAt(Instant at) {
        return Duration.between(begin, at).toNanos();
    }

    @Override
    public long nanos() {
        return nanos;
    }

    @Override
    public Instant wall() {
        return begin.plusNanos(nanos);
    }

    @Override
    public Instant instant() {
        return wall();
    }
}
