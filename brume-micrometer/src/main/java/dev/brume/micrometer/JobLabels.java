package dev.brume.micrometer;

import dev.brume.JobName;
import java.time.Duration;
import java.util.ArrayDeque;
import java.util.Comparator;
import java.util.Deque;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentMap;
import java.util.concurrent.atomic.AtomicLong;
import java.util.function.Consumer;
import java.util.function.LongSupplier;

/**
 * Decides which jobs have a label of their own, so that the number of series stays bounded however many jobs there are.
 *
 * <p>The first ones have, as they come. At each review, one of the others that was clearly busier since the last than the quietest with a label takes
 * its place. Safe for use by many threads.
 */
final class JobLabels {
    /** The label of all jobs that have none of their own. */
    static final String OTHER = "other";

    private static final Duration REVIEW = Duration.ofMinutes(10);
    private static final int CLEARLY = 2;
    private static final int AT_LEAST = 10;
    private static final int CANDIDATES = 10;

    private final int most;
    private final LongSupplier nanos;
    private final Consumer<JobName> whenDropped;
    private final ConcurrentMap<JobName, AtomicLong> own = new ConcurrentHashMap<>();
    private final BusiestJobs others;
    private long reviewAt;

    /**
     * Creates it.
     *
     * @param most how many jobs have a label, from 0
     * @param nanos the monotonic clock
     * @param whenDropped hears of jobs that have lost their label
     */
    JobLabels(int most, LongSupplier nanos, Consumer<JobName> whenDropped) {
        this.most = most;
        this.nanos = nanos;
        this.whenDropped = whenDropped;
        this.others = new BusiestJobs(CANDIDATES * Math.max(1, most));
        reviewAt = nanos.getAsLong() + REVIEW.toNanos();
    }

    /** Counts a use of a job's label; {@return whether it has one of its own} */
    boolean use(JobName job) {
        AtomicLong uses = own.get(job);
        if (uses != null) {
            uses.incrementAndGet();
            return true;
        }
        return most > 0 && useOfOther(job);
    }

    private synchronized boolean useOfOther(JobName job) {
        if (own.size() < most) {
            own.computeIfAbsent(job, name -> new AtomicLong()).incrementAndGet();
            return true;
        }
        others.use(job);
        if (nanos.getAsLong() - reviewAt >= 0) {
            reviewAt = nanos.getAsLong() + REVIEW.toNanos();
            review();
        }
        return own.containsKey(job);
    }

    private void review() {
        Deque<JobName> quietest = new ArrayDeque<>(own.entrySet().stream()
                .sorted(Comparator.comparingLong(entry -> entry.getValue().get()))
                .map(Map.Entry::getKey)
                .toList());
        for (BusiestJobs.Busy busy : others.busiest()) {
            JobName quiet = quietest.poll();
            AtomicLong uses = quiet == null ? null : own.get(quiet);
            if (quiet == null || uses == null || busy.uses() < Math.max(AT_LEAST, CLEARLY * uses.get())) {
                break;
            }
            own.remove(quiet);
            whenDropped.accept(quiet);
            own.put(busy.job(), new AtomicLong());
        }
        others.clear();
        own.values().forEach(uses -> uses.set(0));
    }

    /** {@return how many jobs have a label of their own} */
    int size() {
        return own.size();
    }
}
