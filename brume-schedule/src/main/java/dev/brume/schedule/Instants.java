package dev.brume.schedule;

import java.time.Duration;
import java.time.Instant;

/** Arithmetic on instants that stops at the ends of time instead of failing there. */
final class Instants {
    private Instants() {}

    static Instant justBefore(Instant instant) {
        return instant.equals(Instant.MIN) ? instant : instant.minusNanos(1);
    }

    static Instant minus(Instant instant, Duration by) {
        return Duration.between(Instant.MIN, instant).compareTo(by) < 0 ? Instant.MIN : instant.minus(by);
    }
}
