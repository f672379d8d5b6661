package dev.brume.duties;

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
        if (lease.compareTo(Duration.ofSeconds(2)) < 0) {
            throw new IllegalArgumentException("lease: " + lease.toMillis() + "ms is below 2s");
        }
        if (poll.compareTo(Duration.ofMillis(50)) < 0) {
            throw new IllegalArgumentException("poll: " + poll.toMillis() + "ms is below 50ms");
        }
        if (batch < 1) {
            throw new IllegalArgumentException("batch: " + batch + " is below 1");
        }
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
    Duration renewal() {
        return lease.dividedBy(3);
    }

    /** How long before its end a lease that could not be renewed is treated as lost. */
    Duration margin() {
        return lease.dividedBy(6);
    }
}
