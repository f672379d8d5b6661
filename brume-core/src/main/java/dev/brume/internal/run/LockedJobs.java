package dev.brume.internal.run;

import dev.brume.Event;
import dev.brume.JobName;
import dev.brume.internal.duty.Instance;
import dev.brume.spi.Outlook;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Names the jobs that are due for longer than a lease and whose rows were locked at each look for as long. The engine's own
 * transactions never last so long: it is a session of another program, or of a person.
 */
public final class LockedJobs {
    private static final int MOST_NAMED = 5;
    private static final Duration AGAIN = Duration.ofMinutes(1);

    private final Instance instance;
    private Map<JobName, Seen> seen = Map.of();

    /** When a job's row was first found locked, and when that was told, by the monotonic clock. */
    private record Seen(long since, Optional<Long> told) {}

    public LockedJobs(Instance instance) {
        this.instance = instance;
    }

    /** Looks for them, if anything is due for so long; each is named once a minute. */
    public void check(Outlook outlook) {
        Duration lease = instance.settings().lease();
        Instant longAgo = instance.trusted(outlook.now()).minus(lease);
        boolean stuck = outlook.nextOfAny().filter(due -> due.isBefore(longAgo)).isPresent();
        List<JobName> names = stuck ? instance.transact(tx -> tx.lockedDueJobs(longAgo, MOST_NAMED)) : List.of();
        long now = instance.time().nanos();
        Map<JobName, Seen> found = new HashMap<>();
        for (JobName name : names) {
            Seen before = seen.getOrDefault(name, new Seen(now, Optional.empty()));
            boolean tell = now - before.since() >= lease.toNanos()
                    && before.told().filter(at -> now - at < AGAIN.toNanos()).isEmpty();
            found.put(name, tell ? new Seen(before.since(), Optional.of(now)) : before);
            if (tell) {
                instance.tell(
                        Event.Kind.PROBLEM,
                        name,
                        "has been due for longer than a lease, and its row is locked by someone else's transaction:"
                                + " nothing of it is planned until that ends");
            }
        }
        seen = found;
    }
}
