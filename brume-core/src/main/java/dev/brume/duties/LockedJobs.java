package dev.brume.duties;

import dev.brume.Event;
import dev.brume.JobKey;
import dev.brume.port.Outlook;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Names the jobs that are due for longer than a lease because someone keeps their rows locked. The engine's own
 * transactions never last so long: it is a session of another program, or of a person.
 */
final class LockedJobs {
    private static final int MOST_NAMED = 5;

    private final Instance instance;
    private final Map<JobKey, Long> told = new HashMap<>();

    LockedJobs(Instance instance) {
        this.instance = instance;
    }

    /** Looks for them, if anything is due for so long; each is named once a minute. */
    void check(Outlook outlook) {
        Instant longAgo =
                instance.trusted(outlook.now()).minus(instance.settings().lease());
        boolean stuck = outlook.nextDue().filter(due -> due.isBefore(longAgo)).isPresent();
        if (!stuck) {
            told.clear();
            return;
        }
        List<JobKey> names = instance.transact(tx -> tx.lockedDueJobs(longAgo, MOST_NAMED));
        long now = instance.time().nanos();
        for (JobKey name : names) {
            Optional<Long> before = Optional.ofNullable(told.get(name));
            if (before.isEmpty() || now - before.get() > Duration.ofMinutes(1).toNanos()) {
                told.put(name, now);
                instance.tell(
                        Event.Kind.PROBLEM,
                        name,
                        "has been due for longer than a lease, and its row is locked by someone else's transaction:"
                                + " nothing of it is planned until that ends");
            }
        }
    }
}
