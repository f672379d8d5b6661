package dev.brume;

/**
 * Why a running attempt is asked to end early.
 *
 * @since 0.1.0
 */
public enum StopReason {
    /** Its time limit is over. */
    TIME_LIMIT,
    /** The instance is stopping; the run will go on elsewhere. */
    DRAINING,
    /** Someone has cancelled the run. */
    CANCELLED,
    /** A newer occurrence of the job is due, and the job lets it take this one's place. */
    SUPERSEDED,
    /** The instance could not renew its lease in time; another may run it from here on. */
    LEASE_LOST
}
