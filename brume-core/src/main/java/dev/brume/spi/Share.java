package dev.brume.spi;

import java.util.Map;
import java.util.Set;

/**
 * The jobs that an instance plans of its own accord. Others' jobs it plans only once they are overdue. A share decides who looks first and
 * nothing else: whoever plans a job holds its row locked.
 *
 * @param isWhole whether the instance is alone, and every job is its own
 * @param buckets the buckets of its jobs, by the lanes that it serves
 * @since 0.1.0
 */
public record Share(boolean isWhole, Map<String, Set<Integer>> buckets) {
    /** How many buckets the jobs of a lane are divided into. */
    public static final int BUCKETS = 64;

    /** The share of an instance that is alone. */
    public static final Share WHOLE = new Share(/* isWhole= */ true, Map.of());

    /** {@return the bucket that a job is in, 0 to 63} */
    public static int bucketOf(long job) {
        return (int) (job % BUCKETS);
    }

    /** {@return whether a job of a lane is in this share} */
    public boolean has(String lane, long job) {
        return isWhole || buckets.getOrDefault(lane, Set.of()).contains(bucketOf(job));
    }
}
