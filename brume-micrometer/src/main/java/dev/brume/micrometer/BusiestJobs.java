package dev.brume.micrometer;

import dev.brume.JobName;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeMap;

/**
 * Finds the jobs that are used most among any number of them, in bounded memory: each whose share is above one in the capacity is among those that are kept
 * (Metwally, Agrawal and El Abbadi, "Efficient computation of frequent and top-k elements in data streams", 2005). Confined to one thread.
 */
final class BusiestJobs {
    private final int capacity;
    private final Map<JobName, Count> counts = new HashMap<>();
    private final TreeMap<Long, Set<JobName>> byCount = new TreeMap<>();

    /**
     * How often a job was used.
     *
     * @param most at most
     * @param inherited of which so many may have been another's
     */
    private record Count(long most, long inherited) {
        long least() {
            return most - inherited;
        }
    }

    /**
     * A job, and how often it was used at least.
     *
     * @param job which
     * @param uses at least so many
     */
    record Busy(JobName job, long uses) {}

    BusiestJobs(int capacity) {
        this.capacity = capacity;
    }

    /** Counts a use. One that comes when all places are taken inherits the place and the count of the least. */
    void use(JobName job) {
        Count known = counts.remove(job);
        if (known != null) {
            leave(job, known.most);
            put(job, new Count(known.most + 1, known.inherited));
        } else if (counts.size() < capacity) {
            put(job, new Count(1, 0));
        } else {
            Map.Entry<Long, Set<JobName>> least = byCount.firstEntry();
            JobName out = least.getValue().iterator().next();
            counts.remove(out);
            leave(out, least.getKey());
            put(job, new Count(least.getKey() + 1, least.getKey()));
        }
    }

    private void put(JobName job, Count count) {
        counts.put(job, count);
        byCount.computeIfAbsent(count.most, any -> new LinkedHashSet<>()).add(job);
    }

    private void leave(JobName job, long count) {
        Set<JobName> those = Objects.requireNonNull(byCount.get(count));
        those.remove(job);
        if (those.isEmpty()) {
            byCount.remove(count);
        }
    }

    /** {@return those that were used most for certain, the busiest first} */
    List<Busy> busiest() {
        return counts.entrySet().stream()
                .map(entry -> new Busy(entry.getKey(), entry.getValue().least()))
                .sorted(Comparator.comparingLong(Busy::uses).reversed())
                .toList();
    }

    void clear() {
        counts.clear();
        byCount.clear();
    }
}
