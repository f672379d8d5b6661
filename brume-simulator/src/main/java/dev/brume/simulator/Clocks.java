package dev.brume.simulator;

import dev.brume.insight.internal.VirtualTime;
import dev.brume.spi.TimeSource;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.stream.Stream;

/** The clocks of the machines and of the database, each as wrong as it is made, over a time that is none of theirs. */
final class Clocks {
    private final VirtualTime truth;
    private final List<Reading> readings = new ArrayList<>();
    private Duration databaseOff = Duration.ZERO;

    Clocks(Instant begin) {
        truth = new VirtualTime(begin);
    }

    /** {@return the time that really passes} */
    VirtualTime truth() {
        return truth;
    }

    /** What the store's clock reads. */
    Instant database() {
        return truth.wall().plus(databaseOff);
    }

    /** Makes the store's clock jump to so far off the truth. */
    void databaseOff(Duration off) {
        readings.add(new Reading(truth.nanos(), database()));
        databaseOff = off;
        readings.add(new Reading(truth.nanos(), database()));
    }

    /** {@return the earliest that the store's clock read within a while up to now} */
    Instant earliestLately(Duration lately) {
        return Stream.concat(
                        Stream.of(database()),
                        readings.stream()
                                .filter(reading -> truth.nanos() - reading.nanos <= lately.toNanos())
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
                return truth.nanos() + truth.nanos() / 1_000_000 * drift;
            }

            @Override
            public Instant wall() {
                return truth.wall().plus(skew);
            }

            @Override
            public boolean canRest() {
                return true;
            }

            @Override
            public void rest(Duration time) {
                truth.drag(time.toNanos());
            }
        };
    }
}
