package dev.brume.micrometer;

import dev.brume.JobName;
import java.time.Duration;
import java.util.ArrayDeque;
import java.util.Comparator;
import java.util.Deque;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentMap;
import java.util.concurrent.atomic.AtomicLong;
import java.util.function.Consumer;
import java.util.function.LongSupplier;

/**
 * Decides which jobs have a label of their own, so that the number of series stays bounded however many jobs there are.
 *
 * <p>The first ones have, as they come. Of the others the busiest are known by a summary of bounded size (Metwally, Agrawal and El Abbadi, "Efficient
 * computation of frequent and top-k elements in data streams", 2005). At each review, one of them that was twice as busy since the last as the quietest
 * with a label takes its place. Safe for use by many threads.
 */
final class JobLabels {
    /** The label of all jobs that have none of their own. */
    static final String OTHER = "other";

    private static final Duration REVIEW = Duration.ofMinutes(10);
    private static final int CLEARLY = 2;

    private final int most;
    private final LongSupplier nanos;
    private final Consumer<JobName> whenDropped;
    private final ConcurrentMap<JobName, AtomicLong> own = new ConcurrentHashMap<>();
    private final Map<JobName, Long> others = new HashMap<>();
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
        count(job);
        if (nanos.getAsLong() - reviewAt >= 0) {
            reviewAt = nanos.getAsLong() + REVIEW.toNanos();
            review();
        }
        return own.containsKey(job);
    }

    /** One that comes when all places are taken inherits the count of the least, so that it is never counted too low. */
    private void count(JobName job) {
        Long known = others.get(job);
        if (known != null) {
            others.put(job, known + 1);
        } else if (others.size() < most) {
            others.put(job, 1L);
        } else {
            Map.Entry<JobName, Long> least =
                    others.entrySet().stream().min(Map.Entry.comparingByValue()).orElseThrow();
            others.remove(least.getKey());
            others.put(job, least.getValue() + 1);
        }
    }

    private void review() {
        Deque<JobName> quietest = new ArrayDeque<>(own.entrySet().stream()
                .sorted(Comparator.comparingLong(entry -> entry.getValue().get()))
                .map(Map.Entry::getKey)
                .toList());
        List<Map.Entry<JobName, Long>> busiest = others.entrySet().stream()
                .sorted(Map.Entry.<JobName, Long>comparingByValue().reversed())
                .toList();
        for (Map.Entry<JobName, Long> busy : busiest) {
            Optional<JobName> quiet = Optional.ofNullable(quietest.poll())
                    .filter(job -> own.get(job).get() * CLEARLY < busy.getValue());
            if (quiet.isEmpty()) {
                break;
            }
            own.remove(quiet.get());
            whenDropped.accept(quiet.get());
            own.put(busy.getKey(), new AtomicLong());
        }
        others.clear();
        own.values().forEach(uses -> uses.set(0));
    }

    /** {@return how many jobs have a label of their own} */
    int size() {
        return own.size();
    }
}
