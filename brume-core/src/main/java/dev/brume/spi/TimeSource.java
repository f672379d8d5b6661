package dev.brume.spi;

import java.time.Instant;

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
        };
    }
}
