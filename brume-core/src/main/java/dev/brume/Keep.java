package dev.brume;

import dev.brume.schedule.Durations;
import java.time.Duration;
import java.util.Optional;

/**
 * How long the record of ended runs is kept.
 *
 * <p>What is beyond either bound may be removed, in batches; a little more may be there than the bound says. Immutable.
 *
 * @param age at least so long after they were planned, at least 1 h; for ever if empty
 * @param runs at least so many of the newest, at least 1; all if empty
 */
public record Keep(Optional<Duration> age, Optional<Long> runs) {
    private static final Duration SHORTEST = Duration.ofHours(1);

    /** Keeps everything. */
    public static final Keep ALL = new Keep(Optional.empty(), Optional.empty());

    /**
     * Creates bounds.
     *
     * @throws IllegalArgumentException if one is below its least
     */
    public Keep {
        age.ifPresent(given -> Durations.checked("keep", given, SHORTEST, Durations.LONGEST));
        if (runs.isPresent() && runs.get() < 1) {
            throw new IllegalArgumentException("keep: " + runs.get() + " runs are below 1");
        }
    }

    /**
     * Bounds the age alone.
     *
     * @param age from when a run was planned for, at least 1h
     * @throws IllegalArgumentException if it is shorter
     */
    public static Keep upTo(Duration age) {
        return new Keep(Optional.of(age), Optional.empty());
    }

    /**
     * Bounds the number of runs alone.
     *
     * @param runs from 1
     * @throws IllegalArgumentException if it is below
     */
    public static Keep newest(long runs) {
        return new Keep(Optional.empty(), Optional.of(runs));
    }

    /** {@return whether nothing is ever removed} */
    public boolean isAll() {
        return age.isEmpty() && runs.isEmpty();
    }

    @Override
    public String toString() {
        if (isAll()) {
            return "everything";
        }
        String span = age.map(Durations::format).orElse("");
        String number = runs.map(count -> "the newest " + count).orElse("");
        return age.isPresent() && runs.isPresent() ? span + ", " + number : span + number;
    }
}
