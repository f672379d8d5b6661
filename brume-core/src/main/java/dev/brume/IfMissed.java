package dev.brume;

import dev.brume.schedule.Durations;
import java.time.Duration;
import java.util.Optional;

/**
 * What happens to occurrences that nobody could plan within the tolerance.
 *
 * @param choice the policy
 * @param atMost for {@code RUN_EACH}, how many of the newest are run
 * @param tolerance how late an occurrence may be and still count as on time
 * @param oldest how old one may be and still be run late; those older are recorded as missed; empty for any age
 */
public record IfMissed(Choice choice, int atMost, Duration tolerance, Optional<Duration> oldest) {
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

    /**
     * Creates a policy.
     *
     * @throws IllegalArgumentException if a part is outside its range
     */
    public IfMissed {
        if (atMost < 1 || atMost > MOST) {
            throw new IllegalArgumentException("ifMissed: " + atMost + " is outside 1 to " + MOST);
        }
        Durations.checked("ifMissed: the tolerance", tolerance, Duration.ofSeconds(1), Durations.LONGEST);
        oldest.ifPresent(age -> Durations.checked("ifMissed: oldest", age, Duration.ofSeconds(1), Durations.LONGEST));
        if (oldest.filter(age -> age.compareTo(tolerance) < 0).isPresent()) {
            throw new IllegalArgumentException("ifMissed: oldest must not be below the tolerance, "
                    + Durations.format(tolerance) + "; what is younger is on time");
        }
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
}
