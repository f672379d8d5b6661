package dev.brume;

import dev.brume.schedule.Durations;
import java.time.Duration;
import java.time.temporal.ChronoUnit;

/**
 * How many runs a limit lets begin in any stretch of time.
 *
 * <p>It counts runs that get their places, not their further attempts. Starts are counted in sixtieths of the time, of which the oldest counts
 * until all of it has passed: never more begin than it says, and under a lasting load up to one in sixty fewer.
 *
 * @param starts how many, 1 to {@value #MOST}
 * @param per of what length, 1s to 1d, inclusive, in whole seconds
 * @since 0.1.0
 */
public record Rate(int starts, Duration per) {
    /** The most starts that a rate may count. */
    public static final int MOST = 1_000_000;

    private static final Duration LONGEST = Duration.ofDays(1);

    /**
     * Checks both.
     *
     * @throws IllegalArgumentException if one is outside its range
     */
    public Rate {
        if (starts < 1 || starts > MOST) {
            throw new IllegalArgumentException(starts + " starts are outside 1 to " + MOST);
        }
        Durations.checked("per", per, Duration.ofSeconds(1), LONGEST);
        if (!per.equals(per.truncatedTo(ChronoUnit.SECONDS))) {
            throw new IllegalArgumentException("per: '" + Durations.format(per) + "' has parts of a second");
        }
    }

    /** {@return a rate} */
    public static Rate of(int starts, Duration per) {
        return new Rate(starts, per);
    }

    @Override
    public String toString() {
        return starts + " in " + Durations.format(per);
    }
}
