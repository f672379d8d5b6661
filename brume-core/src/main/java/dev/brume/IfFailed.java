package dev.brume;

import dev.brume.schedule.Durations;
import java.time.Duration;
import java.util.List;
import java.util.Objects;
import org.jspecify.annotations.Nullable;

/**
 * What happens after an attempt that failed or timed out.
 *
 * @since 0.1.0
 */
public final class IfFailed {
    private static final int MOST = 100;

    private final int attempts;
    private final Duration firstWait;
    private final double factor;
    private final Duration cap;
    private final List<Duration> waits;
    private final double jitter;
    private final FailureKinds giveUpOn;
    private final FailureKinds retryOn;

    private IfFailed(
            int attempts,
            Duration firstWait,
            double factor,
            Duration cap,
            List<Duration> waits,
            double jitter,
            FailureKinds giveUpOn,
            FailureKinds retryOn) {
        waits = List.copyOf(waits);
        Objects.requireNonNull(giveUpOn, "giveUpOn");
        Objects.requireNonNull(retryOn, "retryOn");
        if (attempts < 1 || attempts > MOST) {
            throw new IllegalArgumentException("ifFailed: " + attempts + " attempts is outside 1 to " + MOST);
        }
        Durations.checked("ifFailed: the wait", firstWait, Duration.ZERO, Durations.LONGEST);
        Durations.checked("ifFailed: the cap", cap, firstWait, Durations.LONGEST);
        waits.forEach(wait -> Durations.checked("ifFailed: a wait", wait, Duration.ZERO, Durations.LONGEST));
        if (!(factor >= 1 && factor <= 100)) {
            throw new IllegalArgumentException("ifFailed: factor " + factor + " is outside 1 to 100");
        }
        if (!(jitter >= 0 && jitter <= 1)) {
            throw new IllegalArgumentException("ifFailed: jitter " + jitter + " is outside 0 to 1");
        }
        if (waits.size() > MOST) {
            throw new IllegalArgumentException("ifFailed: " + waits.size() + " waits are more than " + MOST);
        }
        this.attempts = attempts;
        this.firstWait = firstWait;
        this.factor = factor;
        this.cap = cap;
        this.waits = waits;
        this.jitter = jitter;
        this.giveUpOn = giveUpOn;
        this.retryOn = retryOn;
    }

    /** Allows one attempt only; the default. */
    public static IfFailed giveUp() {
        return attempts(1, Duration.ZERO);
    }

    /**
     * Allows so many attempts, the same wait before each further one.
     *
     * @param attempts in all, the first included, 1 to 100
     * @param wait before each further one, from 0s
     * @throws IllegalArgumentException if one of them is outside its range
     */
    public static IfFailed attempts(int attempts, Duration wait) {
        return new IfFailed(attempts, wait, 1, wait, List.of(), 0, FailureKinds.NONE, FailureKinds.NONE);
    }

    /**
     * Allows one attempt more than there are waits, each after its wait.
     *
     * @param waits each from 0s, at most 99
     * @throws IllegalArgumentException if there are more, or one is below 0s
     */
    public static IfFailed waits(List<Duration> waits) {
        return new IfFailed(
                waits.size() + 1, Duration.ZERO, 1, Duration.ZERO, waits, 0, FailureKinds.NONE, FailureKinds.NONE);
    }

    /**
     * {@return a copy whose waits grow by a factor}
     *
     * <p>Unless {@link #cap(Duration)} says otherwise they grow up to an hour, or to the first wait if that is longer.
     *
     * @param by what each further wait is multiplied with, 1 to 100
     * @throws IllegalArgumentException if it is outside that range
     */
    public IfFailed factor(double by) {
        Duration most = by > 1 && cap.equals(firstWait) ? longer(firstWait, Duration.ofHours(1)) : cap;
        return new IfFailed(attempts, firstWait, by, most, waits, jitter, giveUpOn, retryOn);
    }

    /**
     * {@return a copy whose waits grow no further than a cap}
     *
     * @param most the longest wait, not below the first
     * @throws IllegalArgumentException if it is below the first
     */
    public IfFailed cap(Duration most) {
        return new IfFailed(attempts, firstWait, factor, most, waits, jitter, giveUpOn, retryOn);
    }

    private static Duration longer(Duration one, Duration other) {
        return one.compareTo(other) < 0 ? other : one;
    }

    /**
     * {@return a copy whose waits are shortened by up to a share of them, differently for each run}
     *
     * @param share 0 (none) to 1 (all of it)
     * @throws IllegalArgumentException if it is outside that range
     */
    public IfFailed jitter(double share) {
        return new IfFailed(attempts, firstWait, factor, cap, waits, share, giveUpOn, retryOn);
    }

    /** {@return a copy that makes no further attempt after some kinds of failure} */
    public IfFailed giveUpOn(FailureKinds failures) {
        return new IfFailed(attempts, firstWait, factor, cap, waits, jitter, failures, retryOn);
    }

    /**
     * {@return a copy that makes a further attempt only after some kinds of failure, or after the time limit was overstepped}
     *
     * @param failures that are passing; those of {@link #giveUpOn} are final all the same
     */
    public IfFailed retryOn(FailureKinds failures) {
        return new IfFailed(attempts, firstWait, factor, cap, waits, jitter, giveUpOn, failures);
    }

    /**
     * {@return the wait after the n-th failure, n from 1, before anything is taken off it}
     *
     * @param failures from 1
     */
    public Duration waitAfter(int failures) {
        if (!waits.isEmpty()) {
            return waits.get(Math.min(failures, waits.size()) - 1);
        }
        double millis = firstWait.toMillis() * Math.pow(factor, failures - 1.0);
        return millis >= cap.toMillis() ? cap : Duration.ofMillis((long) millis);
    }

    /**
     * {@return the wait after the n-th failure of a run}
     *
     * @param failures from 1
     * @param run its id; the same run always waits the same
     */
    public Duration waitAfter(int failures, long run) {
        Duration whole = waitAfter(failures);
        return jitter == 0 ? whole : whole.minusMillis((long) (whole.toMillis() * jitter * share(run * 31 + failures)));
    }

    /** Spreads seeds evenly over 0 (inclusive) to 1 (exclusive). */
    private static double share(long seed) {
        long mixed = (seed ^ (seed >>> 30)) * 0xbf58476d1ce4e5b9L;
        mixed = (mixed ^ (mixed >>> 27)) * 0x94d049bb133111ebL;
        mixed ^= mixed >>> 31;
        return (mixed >>> 11) * 0x1.0p-53;
    }

    /** {@return how many attempts a run has in all, 1 to 100} */
    public int attempts() {
        return attempts;
    }

    /** {@return the wait before the second attempt} */
    public Duration firstWait() {
        return firstWait;
    }

    /** {@return the factor by which each further wait grows, 1 to 100} */
    public double factor() {
        return factor;
    }

    /** {@return the longest wait} */
    public Duration cap() {
        return cap;
    }

    /** {@return the waits one by one, the last of them for all that follow; if not empty, {@link #firstWait}, {@link #factor} and {@link #cap} are not used} */
    public List<Duration> waits() {
        return waits;
    }

    /** {@return the greatest share of a wait that is taken off it, 0 to 1, so that runs that failed together are not tried together} */
    public double jitter() {
        return jitter;
    }

    /** {@return which failures are final, whatever attempts are left} */
    public FailureKinds giveUpOn() {
        return giveUpOn;
    }

    /** {@return after which failures alone a further attempt is made; empty for all} */
    public FailureKinds retryOn() {
        return retryOn;
    }

    /** {@return whether another attempt after a failure is worth it} */
    public boolean isPassing(Failure failure) {
        return !giveUpOn.matches(failure) && (retryOn.isEmpty() || retryOn.matches(failure));
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof IfFailed that && parts().equals(that.parts());
    }

    @Override
    public int hashCode() {
        return parts().hashCode();
    }

    private List<Object> parts() {
        return List.of(attempts, firstWait, factor, cap, waits, jitter, giveUpOn, retryOn);
    }

    @Override
    public String toString() {
        return "IfFailed" + parts();
    }
}
