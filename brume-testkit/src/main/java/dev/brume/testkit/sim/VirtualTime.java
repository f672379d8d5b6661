package dev.brume.testkit.sim;

import dev.brume.port.TimeSource;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Comparator;
import java.util.PriorityQueue;

/** Time that moves only from one planned action to the next. Confined to one thread. */
final class VirtualTime implements TimeSource, InstantSource {
    private final Instant begin;
    private final PriorityQueue<Planned> queue =
            new PriorityQueue<>(Comparator.comparingLong(Planned::nanos).thenComparingLong(Planned::order));
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
        nanos = next.nanos();
        next.action().run();
        return true;
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
