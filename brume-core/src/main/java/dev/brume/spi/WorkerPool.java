package dev.brume.spi;

import dev.brume.StopReason;

/**
 * Carries out attempts. Safe for use by many threads.
 *
 * @since 0.1.0
 */
public interface WorkerPool {

    /** {@return how many more attempts a lane can begin at once} */
    int free(String lane);

    /** Begins an attempt; its completion is handed in when it ends, whatever happens. */
    void start(LeasedRun run);

    /** Asks a running attempt to end. */
    void stop(LeasedRun run, StopReason why);
}
