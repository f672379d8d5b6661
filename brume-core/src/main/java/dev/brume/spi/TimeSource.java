package dev.brume.spi;

import java.time.Duration;
import java.time.Instant;
import java.util.concurrent.locks.LockSupport;

/**
 * The clocks of the machine an instance runs on. Safe for use by many threads.
 *
 * @since 0.1.0
 */
public interface TimeSource {

    /** {@return elapsed time in nanoseconds from some fixed point; it never jumps} */
    long nanos();

    /** {@return the wall clock, which may be wrong and may jump} */
    Instant wall();

    /** {@return whether a step may {@linkplain #rest rest} in its middle} */
    default boolean canRest() {
        return false;
    }

    /**
     * Lets so much time pass, or somewhat less or more, in the middle of a step.
     *
     * @throws UnsupportedOperationException if it {@linkplain #canRest cannot}
     */
    default void rest(Duration time) {
        throw new UnsupportedOperationException("time does not pass by itself");
    }

    /** {@return the real clocks} */
    static TimeSource system() {
        return new TimeSource() {
            @Override
            public long nanos() {
                return System.nanoTime();
            }

            @Override
            public Instant wall() {
                return Instant.now();
            }

            @Override
            public boolean canRest() {
                return true;
            }

            @Override
            public void rest(Duration time) {
                LockSupport.parkNanos(time.toNanos());
            }
        };
    }
}
