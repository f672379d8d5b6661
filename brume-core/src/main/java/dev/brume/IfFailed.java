package dev.brume;

import java.time.Duration;

/**
 * What happens after an attempt that failed or timed out.
 *
 * @param attempts how many are allowed in all, 1 to 100
 * @param firstWait before the second attempt
 * @param factor by which each further wait grows, at least 1
 * @param cap the longest wait
 */
public record IfFailed(int attempts, Duration firstWait, double factor, Duration cap) {
    private static final int MOST = 100;

    /**
     * Creates a policy.
     *
     * @throws IllegalArgumentException if a part is outside its range
     */
    public IfFailed {
        if (attempts < 1 || attempts > MOST) {
            throw new IllegalArgumentException("ifFailed: " + attempts + " attempts is outside 1 to " + MOST);
        }
        if (firstWait.isNegative() || cap.compareTo(firstWait) < 0) {
            throw new IllegalArgumentException("ifFailed: the wait must lie between 0s and the cap");
        }
        if (!(factor >= 1 && factor <= 100)) {
            throw new IllegalArgumentException("ifFailed: factor " + factor + " is outside 1 to 100");
        }
    }

    /** Allows one attempt only; the default. */
    public static IfFailed giveUp() {
        return new IfFailed(1, Duration.ZERO, 1, Duration.ZERO);
    }

    /** Allows so many attempts, the same wait before each further one. */
    public static IfFailed attempts(int attempts, Duration wait) {
        return new IfFailed(attempts, wait, 1, wait);
    }

    /** Returns a copy whose waits grow by a factor up to a cap. */
    public IfFailed growing(double by, Duration upTo) {
        return new IfFailed(attempts, firstWait, by, upTo);
    }

    /** Returns the wait after the n-th failure, n from 1. */
    public Duration waitAfter(int failures) {
        double millis = firstWait.toMillis() * Math.pow(factor, failures - 1.0);
        return millis >= cap.toMillis() ? cap : Duration.ofMillis((long) millis);
    }
}
