package dev.brume;

/** Why a running attempt is asked to end early. */
public enum StopReason {
    /** Its time limit is over. */
    TIME_LIMIT,
    /** The instance is stopping; the run will go on elsewhere. */
    DRAINING,
    /** The instance could not renew its lease in time; another may run it from here on. */
    LEASE_LOST
}
