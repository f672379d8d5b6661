package dev.brume.internal.duty;

import dev.brume.spi.TimeSource;
import java.time.Duration;
import java.time.Instant;
import java.util.Objects;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;

/** A clock that moves only by hand. */
final class HandClock implements TimeSource {
    static final Instant BEGIN = Instant.parse("2026-11-23T10:00:00Z");

    private long nanos;
    private @Nullable Consumer<Duration> resting;

    @Override
    public long nanos() {
        return nanos;
    }

    @Override
    public Instant wall() {
        return BEGIN.plusNanos(nanos);
    }

    @Override
    public boolean canRest() {
        return resting != null;
    }

    @Override
    public void rest(Duration time) {
        Objects.requireNonNull(resting).accept(time);
    }

    /** Says what happens while an instance rests in the middle of a step. */
    void whenResting(Consumer<Duration> happens) {
        resting = happens;
    }

    void forward(Duration duration) {
        nanos += duration.toNanos();
    }
}
