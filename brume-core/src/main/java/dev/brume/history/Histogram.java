package dev.brume.history;

import dev.brume.internal.text.PackedReader;
import dev.brume.internal.text.PackedWriter;
import java.time.Duration;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
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
    public static final Histogram NONE = new Histogram(new byte[0]);

    private static final int BITS = 6;
    private static final int EXACT = 1 << BITS;

    /**
     * Of each bucket that is not empty, lowest first: how far it is from the one before, how many there are, and by how many microseconds they
     * exceed the least that it holds, all together. There are many histograms of a few durations, and of few of them is anything asked.
     */
    private final byte[] packed;

    private Histogram(byte[] packed) {
        this.packed = packed;
    }

    /** {@return the histogram of some durations} */
    public static Histogram of(Iterable<Duration> durations) {
        Counts counts = new Counts();
        for (Duration duration : durations) {
            long micros = duration.isNegative() ? 0 : duration.toNanos() / 1000;
            counts.add(bucketOf(micros), 1, micros);
        }
        return counts.pack();
    }

    /** {@return the histogram that {@link #toBytes} was asked of} */
    public static Histogram ofBytes(byte[] bytes) {
        return bytes.length == 0 ? NONE : new Histogram(bytes.clone());
    }

    /** {@return the histogram of what is in any of some} */
    public static Histogram sum(List<Histogram> histograms) {
        if (histograms.size() == 1) {
            return histograms.get(0);
        }
        Counts counts = new Counts();
        histograms.forEach(counts::add);
        return counts.pack();
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

    /** {@return a form of it that can be kept} */
    public byte[] toBytes() {
        return packed.clone();
    }

    /** {@return how many durations there are} */
    public long count() {
        long count = 0;
        PackedReader in = new PackedReader(packed);
        while (in.hasMore()) {
            in.number();
            count += in.number();
            in.number();
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
        PackedReader in = new PackedReader(packed);
        int bucket = 0;
        long seen = 0;
        while (in.hasMore()) {
            bucket += (int) in.number();
            long count = in.number();
            long beyond = in.number();
            seen += count;
            if (seen >= rank) {
                return Optional.of(Duration.ofNanos((low(bucket) + beyond / count) * 1000));
            }
        }
        return Optional.empty();
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof Histogram that && Arrays.equals(packed, that.packed);
    }

    @Override
    public int hashCode() {
        return Arrays.hashCode(packed);
    }

    @Override
    public String toString() {
        return count() + " durations, the median " + percentile(50).orElse(Duration.ZERO);
    }

    /** What is counted, by bucket. */
    private static final class Counts {
        private long[] counts = new long[EXACT];
        private long[] sums = new long[EXACT];
        private int size;

        void add(Histogram histogram) {
            PackedReader in = new PackedReader(histogram.packed);
            int bucket = 0;
            while (in.hasMore()) {
                bucket += (int) in.number();
                long count = in.number();
                add(bucket, count, in.number() + count * low(bucket));
            }
        }

        void add(int bucket, long count, long sum) {
            if (bucket >= counts.length) {
                counts = Arrays.copyOf(counts, bucket + EXACT);
                sums = Arrays.copyOf(sums, bucket + EXACT);
            }
            counts[bucket] += count;
            sums[bucket] += sum;
            size = Math.max(size, bucket + 1);
        }

        Histogram pack() {
            if (size == 0) {
                return NONE;
            }
            PackedWriter out = new PackedWriter();
            int last = 0;
            for (int i = 0; i < size; i++) {
                if (counts[i] > 0) {
                    out.number(i - last);
                    out.number(counts[i]);
                    out.number(sums[i] - counts[i] * low(i));
                    last = i;
                }
            }
            return new Histogram(out.toBytes());
        }
    }
}
