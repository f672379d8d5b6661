package dev.brume.internal.session;

import dev.brume.internal.duty.Duty;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.duty.Turns;
import java.time.Duration;
import java.util.Optional;

/**
 * Watches for the end of the session's lease and tells the runs a sixth of the lease before it. It asks the store nothing, so that a
 * renewal that hangs, or a pool with no connection left, does not keep it from doing so.
 */
public final class LeaseEndDuty implements Duty {
    private static final Duration SOON = Duration.ofMillis(100);

    private final Instance instance;

    /** Creates the duty. */
    public LeaseEndDuty(Instance instance) {
        this.instance = instance;
    }

    @Override
    public Duration step() {
        Optional<Instance.Session> session = instance.session();
        if (session.isEmpty()) {
            return SOON;
        }
        if (instance.liveSession().isPresent()) {
            Duration left = Duration.ofNanos(
                            session.get().leaseEndNanos() - instance.time().nanos())
                    .minus(instance.settings().margin());
            return left.compareTo(SOON) < 0 ? SOON : left;
        }
        String why = instance.turns()
                .stuck(instance.time().nanos())
                .map(Turns.Stuck::text)
                .orElse("could not be renewed: no answer came in time");
        instance.leaseEnds(session.get(), why);
        return SOON;
    }
}
