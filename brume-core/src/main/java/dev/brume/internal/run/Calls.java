package dev.brume.internal.run;

import dev.brume.Job;
import dev.brume.internal.duty.Instance;
import java.time.Instant;

/**
 * Calls whoever is to do what was just ordered: this instance alone, if it has a free worker for it, so that the others sleep on. Nothing
 * depends on it; all look again within their poll.
 */
public final class Calls {
    private Calls() {}

    /** A run of a job is ready. */
    public static void run(Instance instance, Job job) {
        if (takesWork(instance) && Leasing.mayStart(instance, job)) {
            instance.ready();
        } else {
            instance.call();
        }
    }

    /** A one-off falls due at an instant. Whoever makes its run calls others if it cannot start it. */
    public static void oneOff(Instance instance, Instant due) {
        if (!instance.isSoon(due)) {
            return;
        }
        if (takesWork(instance) && !Leasing.openLanes(instance).isEmpty()) {
            instance.ready();
        } else {
            instance.call();
        }
    }

    private static boolean takesWork(Instance instance) {
        return !instance.draining() && instance.liveSession().isPresent();
    }
}
