package dev.brume.testkit;

import dev.brume.spi.TimeSource;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;

/** A clock that stands still until it is moved; wall clock, database's clock and elapsed time agree. Safe for many threads. */
final class VirtualClock implements TimeSource, InstantSource {
    private final Instant begin;
    private volatile long nanos;

    VirtualClock(Instant begin) {
        this.begin = begin;
    }

    synchronized void move(Duration by) {
        nanos += by.toNanos();
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
