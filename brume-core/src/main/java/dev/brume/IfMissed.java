package dev.brume;

import dev.brume.schedule.Durations;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * What happens to occurrences that nobody could plan within the tolerance.
 *
 * @since 0.1.0
 */
public final class IfMissed {
    /** How late an occurrence may be and still count as on time, unless a job says otherwise. */
    public static final Duration TOLERANCE = Duration.ofSeconds(60);

    private static final int MOST = 1000;

    /** The policies. */
    public enum Choice {
        /** The newest missed occurrence is run, unless one is due on time; the rest are recorded as missed. */
        RUN_LATEST,
        /** The newest few are run, oldest of them first; the rest are recorded as missed. */
        RUN_EACH,
        /** All are recorded as missed. */
        SKIP
    }

    private final Choice choice;
    private final int atMost;
    private final Duration tolerance;
    private final Optional<Duration> oldest;

    private IfMissed(Choice choice, int atMost, Duration tolerance, Optional<Duration> oldest) {
        if (atMost < 1 || atMost > MOST) {
            throw new IllegalArgumentException("ifMissed: " + atMost + " is outside 1 to " + MOST);
        }
        Durations.checked("ifMissed: the tolerance", tolerance, Duration.ofSeconds(1), Durations.LONGEST);
        oldest.ifPresent(age -> Durations.checked("ifMissed: oldest", age, Duration.ofSeconds(1), Durations.LONGEST));
        if (oldest.filter(age -> age.compareTo(tolerance) < 0).isPresent()) {
            throw new IllegalArgumentException("ifMissed: oldest must not be below the tolerance, "
                    + Durations.format(tolerance) + "; a younger occurrence is on time");
        }
        this.choice = choice;
        this.atMost = atMost;
        this.tolerance = tolerance;
        this.oldest = oldest;
    }

    /** Runs the newest missed occurrence; the default. */
    public static IfMissed runLatest() {
        return new IfMissed(Choice.RUN_LATEST, 1, TOLERANCE, Optional.empty());
    }

    /**
     * Runs the newest few.
     *
     * @param atMost 1 to 1000
     * @throws IllegalArgumentException if it is outside that range
     */
    public static IfMissed runEach(int atMost) {
        return new IfMissed(Choice.RUN_EACH, atMost, TOLERANCE, Optional.empty());
    }

    /** Runs none. */
    public static IfMissed skip() {
        return new IfMissed(Choice.SKIP, 1, TOLERANCE, Optional.empty());
    }

    /**
     * {@return a copy with another tolerance}
     *
     * @param other how late an occurrence may be and still count as on time, from 1s, inclusive
     * @throws IllegalArgumentException if it is shorter
     */
    public IfMissed tolerance(Duration other) {
        return new IfMissed(choice, atMost, other, oldest);
    }

    /**
     * {@return a copy that runs nothing late that is older}
     *
     * @param age at its planned time, inclusive; not below the tolerance
     * @throws IllegalArgumentException if it is
     */
    public IfMissed oldest(Duration age) {
        return new IfMissed(choice, atMost, tolerance, Optional.of(age));
    }

    /** {@return the policy} */
    public Choice choice() {
        return choice;
    }

    /** {@return how many of the newest are run with {@code RUN_EACH}} */
    public int atMost() {
        return atMost;
    }

    /** {@return how late an occurrence may be and still count as on time} */
    public Duration tolerance() {
        return tolerance;
    }

    /** {@return how old one may be and still be run late; those older are recorded as missed; empty for any age} */
    public Optional<Duration> oldest() {
        return oldest;
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof IfMissed that && parts().equals(that.parts());
    }

    @Override
    public int hashCode() {
        return parts().hashCode();
    }

    private List<Object> parts() {
        return List.of(choice, atMost, tolerance, oldest);
    }

    @Override
    public String toString() {
        return "IfMissed" + parts();
    }
}
