package dev.brume.testkit.sim;

/**
 * How often things go wrong, as a share of store calls or of simulated seconds.
 *
 * @param refused of store calls: the store cannot be reached
 * @param answerLost of store calls: it commits, but the answer is lost
 * @param commitLost of store calls: it rolls back, and nobody knows
 * @param crashBefore of store calls: the instance dies just before
 * @param crashAfter of store calls: the instance dies just after the commit
 * @param pausePerSecond of seconds of an instance: it freezes for up to three leases
 */
public record Faults(
        double refused,
        double answerLost,
        double commitLost,
        double crashBefore,
        double crashAfter,
        double pausePerSecond) {

    /** Nothing goes wrong. */
    public static Faults none() {
        return new Faults(0, 0, 0, 0, 0, 0);
    }

    /** A hard day. */
    public static Faults many() {
        return new Faults(0.01, 0.01, 0.01, 0.002, 0.002, 0.004);
    }
}
