package dev.brume.history;

import java.time.Duration;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/**
 * How many of some durations were about how long.
 *
 * <p>Durations are counted in buckets by their microseconds, which are exact up to 63, and from there on a sixty-fourth as wide as they are far
 * from zero; of each bucket the sum is known too. So what is said of a duration is right where all of its bucket were the same, and wrong by
 * less than two percent otherwise. Negative durations count as zero. Immutable.
 *
 * @since 0.1.0
 */
public final class Histogram {
    /** Of nothing. */
    public static final Histogram NONE = new Histogram(new int[0], new long[0], new long[0]);

    private static final int BITS = 6;
    private static final int EXACT = 1 << BITS;

    private final int[] buckets;
    private final long[] counts;
    private final long[] sums;

    private Histogram(int[] buckets, long[] counts, long[] sums) {
        this.buckets = buckets;
        this.counts = counts;
        this.sums = sums;
    }

    /** Is given each bucket in turn. */
    public interface Receiver {
        /**
         * One bucket.
         *
         * @param number of the bucket, from 0
         * @param count how many durations are in it, at least 1
         * @param beyond by how many microseconds they exceed the least that the bucket holds, all together
         */
        void bucket(int number, long count, long beyond);
    }

    /** {@return the histogram of some durations} */
    public static Histogram of(Iterable<Duration> durations) {
        TreeMap<Integer, long[]> counted = new TreeMap<>();
        for (Duration duration : durations) {
            long micros = duration.isNegative() ? 0 : duration.toNanos() / 1000;
            long[] bucket = counted.computeIfAbsent(bucketOf(micros), number -> new long[2]);
            bucket[0]++;
            bucket[1] += micros;
        }
        return new Histogram(
                counted.keySet().stream().mapToInt(Integer::intValue).toArray(),
                counted.values().stream().mapToLong(bucket -> bucket[0]).toArray(),
                counted.values().stream().mapToLong(bucket -> bucket[1]).toArray());
    }

    /**
     * Makes one of what {@link #each} told.
     *
     * @param buckets their numbers, rising
     * @param counts how many are in each, at least 1
     * @param beyond by how many microseconds they exceed the least that each holds
     */
    public static Histogram of(int[] buckets, long[] counts, long[] beyond) {
        long[] sums = new long[buckets.length];
        for (int i = 0; i < sums.length; i++) {
            sums[i] = beyond[i] + counts[i] * low(buckets[i]);
        }
        return new Histogram(buckets.clone(), counts.clone(), sums);
    }

    /** {@return the histogram of what is in any of some} */
    public static Histogram sum(List<Histogram> histograms) {
        if (histograms.size() == 1) {
            return histograms.get(0);
        }
        int highest = histograms.stream()
                .filter(each -> each.buckets.length > 0)
                .mapToInt(each -> each.buckets[each.buckets.length - 1])
                .max()
                .orElse(-1);
        long[] counts = new long[highest + 1];
        long[] sums = new long[highest + 1];
        for (Histogram each : histograms) {
            for (int i = 0; i < each.buckets.length; i++) {
                counts[each.buckets[i]] += each.counts[i];
                sums[each.buckets[i]] += each.sums[i];
            }
        }
        int[] used = new int[counts.length];
        int size = 0;
        for (int i = 0; i < counts.length; i++) {
            if (counts[i] > 0) {
                counts[size] = counts[i];
                sums[size] = sums[i];
                used[size++] = i;
            }
        }
        return new Histogram(Arrays.copyOf(used, size), Arrays.copyOf(counts, size), Arrays.copyOf(sums, size));
    }

    private static int bucketOf(long micros) {
        if (micros < EXACT) {
            return (int) micros;
        }
        int shift = Long.SIZE - 1 - Long.numberOfLeadingZeros(micros) - BITS;
        return shift * EXACT + (int) (micros >>> shift);
    }

    /** The least that a bucket holds. */
    private static long low(int bucket) {
        if (bucket < EXACT) {
            return bucket;
        }
        int shift = bucket / EXACT - 1;
        return (long) (bucket - shift * EXACT) << shift;
    }

    /** Tells each bucket that is not empty, lowest first. */
    public void each(Receiver receiver) {
        for (int i = 0; i < buckets.length; i++) {
            receiver.bucket(buckets[i], counts[i], sums[i] - counts[i] * low(buckets[i]));
        }
    }

    /** {@return how many buckets are not empty} */
    public int size() {
        return buckets.length;
    }

    /** {@return how many durations there are} */
    public long count() {
        long count = 0;
        for (long each : counts) {
            count += each;
        }
        return count;
    }

    /**
     * {@return about what so many percent do not exceed, by nearest rank; empty if there is none}
     *
     * @param percent 1 to 100
     */
    public Optional<Duration> percentile(int percent) {
        long rank = Math.max(1, (long) Math.ceil(percent / 100.0 * count()));
        long seen = 0;
        for (int i = 0; i < buckets.length; i++) {
            seen += counts[i];
            if (seen >= rank) {
                return Optional.of(Duration.ofNanos(sums[i] / counts[i] * 1000));
            }
        }
        return Optional.empty();
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof Histogram that
                && Arrays.equals(buckets, that.buckets)
                && Arrays.equals(counts, that.counts)
                && Arrays.equals(sums, that.sums);
    }

    @Override
    public int hashCode() {
        return 31 * Arrays.hashCode(buckets) + Arrays.hashCode(sums);
    }

    @Override
    public String toString() {
        StringBuilder text = new StringBuilder("[");
        for (int i = 0; i < buckets.length; i++) {
            text.append(i > 0 ? ", " : "")
                    .append(counts[i])
                    .append(" of ")
                    .append(sums[i] / counts[i])
                    .append(" us");
        }
        return text.append(']').toString();
    }
}
