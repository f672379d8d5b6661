package dev.brume.schedule;

import java.time.Instant;
import java.util.Objects;

/**
 * From when a schedule counts what it has owed, and what it owed before.
 *
 * @param defined when the schedule was first defined; times such as "in 10m" run from it
 * @param since from when occurrences are counted now, inclusive
 * @param owed how many were owed before {@code since}, under earlier versions; 0 or more
 * @since 0.1.0
 */
public record Counting(Instant defined, Instant since, long owed) {

    /** Checks the count. */
    public Counting {
        Objects.requireNonNull(defined, "defined");
        Objects.requireNonNull(since, "since");
        if (owed < 0) {
            throw new IllegalArgumentException("owed: " + owed + " is below 0");
        }
    }

    /** {@return the count of a schedule that is defined now} */
    public static Counting from(Instant defined) {
        return new Counting(defined, defined, 0);
    }
}
