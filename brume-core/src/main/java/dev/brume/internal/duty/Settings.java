package dev.brume.internal.duty;

import dev.brume.schedule.Durations;
import java.time.Duration;
import java.time.zone.ZoneRulesProvider;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;

/**
 * How an instance is set up.
 *
 * @param instance its name
 * @param host where it runs
 * @param pid its process
 * @param lanes it serves, with the number of workers of each
 * @param labels it carries
 * @param lease how long its session lives without being renewed, at least 2 s
 * @param poll how often it looks for what it was not told of
 * @param batch how many rows one transaction handles
 * @param tzdata the version of its zone rules
 */
public record Settings(
        String instance,
        String host,
        long pid,
        Map<String, Integer> lanes,
        Set<String> labels,
        Duration lease,
        Duration poll,
        int batch,
        String tzdata) {
    private static final Duration SHORTEST_LEASE = Duration.ofSeconds(2);
    private static final Duration LONGEST_LEASE = Duration.ofDays(3650);
    private static final Duration SHORTEST_POLL = Duration.ofMillis(50);
    private static final Duration LONGEST_POLL = Duration.ofDays(3650);
    private static final int LARGEST_BATCH = 100_000;

    /** The lease unless one is stated. */
    public static final Duration LEASE = Duration.ofSeconds(15);

    /** The poll unless one is stated. */
    public static final Duration POLL = Duration.ofSeconds(1);

    /** The batch unless one is stated. */
    public static final int BATCH = 500;

    /**
     * Creates settings.
     *
     * @throws IllegalArgumentException if a value is outside its range
     */
    public Settings {
        lanes = Map.copyOf(new TreeMap<>(lanes));
        labels = Set.copyOf(labels);
        checkedLease(lease);
        checkedPoll(poll);
        checkedBatch(batch);
    }

    /** {@return a lease, if it is long enough} */
    public static Duration checkedLease(Duration lease) {
        return Durations.checked("lease", lease, SHORTEST_LEASE, LONGEST_LEASE);
    }

    /** {@return a poll, if it is long enough} */
    public static Duration checkedPoll(Duration poll) {
        return Durations.checked("poll", poll, SHORTEST_POLL, LONGEST_POLL);
    }

    /** {@return a batch, if it is large enough} */
    public static int checkedBatch(int batch) {
        if (batch < 1 || batch > LARGEST_BATCH) {
            throw new IllegalArgumentException("batch: " + batch + " is outside 1 to " + LARGEST_BATCH);
        }
        return batch;
    }

    /** Creates settings of an instance without labels, with the zone rules of this Java runtime. */
    public Settings(
            String instance,
            String host,
            long pid,
            Map<String, Integer> lanes,
            Duration lease,
            Duration poll,
            int batch) {
        this(instance, host, pid, lanes, Set.of(), lease, poll, batch, ownTzdata());
    }

    /** {@return the version of this Java runtime's zone rules} */
    public static String ownTzdata() {
        return ZoneRulesProvider.getVersions("UTC").lastKey();
    }

    /** How often the session is renewed. */
    public Duration renewal() {
        return lease.dividedBy(3);
    }

    /** How long before its end a lease that could not be renewed is treated as lost. */
    public Duration margin() {
        return lease.dividedBy(6);
    }
}
