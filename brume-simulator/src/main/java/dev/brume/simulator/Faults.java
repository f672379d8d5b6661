package dev.brume.simulator;

/**
 * How often things go wrong, as a share of store calls, or of simulated seconds.
 *
 * @param refused of store calls: the store cannot be reached
 * @param victim of store calls: it rolls back because others were in the way
 * @param answerLost of store calls: it commits, but the answer is lost
 * @param commitLost of store calls: it rolls back, and nobody knows
 * @param crashBefore of store calls: the instance dies just before
 * @param crashAfter of store calls: the instance dies just after the commit
 * @param slow of store calls: time passes, up to half a lease, before the answer comes
 * @param busy of looks at live runs whose ends are to be awaited: somebody holds them locked
 * @param pause of seconds of an instance: it freezes for up to three leases
 * @param cutOff of seconds of an instance: it cannot reach the store for up to two leases
 * @param drain of seconds of an instance: someone asks it to drain
 * @param redefine of seconds: a job is defined anew, dropped or added
 * @param order of seconds: someone orders a one-off, perhaps twice by the same key, or something else by hand
 * @param failOver of seconds: the store becomes a copy that lacks what was committed in the last seconds
 * @param clockJump of seconds: the store's clock jumps: half a minute or an hour there or back, or ten years for a minute
 * @param skew in seconds, by how much the wall clock of an instance may be wrong
 */
public record Faults(
        double refused,
        double victim,
        double answerLost,
        double commitLost,
        double crashBefore,
        double crashAfter,
        double slow,
        double busy,
        double pause,
        double cutOff,
        double drain,
        double redefine,
        double order,
        double failOver,
        double clockJump,
        int skew) {

    /** Nothing goes wrong, and nobody asks for anything. */
    public static Faults none() {
        return new Faults(0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0);
    }

    /** A hard day. */
    public static Faults many() {
        return new Faults(
                0.01, 0.01, 0.01, 0.01, 0.002, 0.002, 0.002, 0.3, 0.004, 0.002, 0.0005, 0.01, 0.05, 0.001, 0.001, 180);
    }
}
