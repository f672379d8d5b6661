package dev.brume.internal.duty;

import dev.brume.spi.TimeSource;
import java.time.Duration;
import java.time.Instant;

/** A clock that moves only by hand. */
final class HandClock implements TimeSource {
    static final Instant BEGIN = Instant.parse("2026-11-23T10:00:00Z");

    private long nanos;

    @Override
    public long nanos() {
        return nanos;
    }

    @Override
    public Instant wall() {
        return BEGIN.plusNanos(nanos);
    }

    void forward(Duration duration) {
        nanos += duration.toNanos();
    }
}
