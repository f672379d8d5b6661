package dev.brume;

import dev.brume.schedule.Durations;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * How long the record of ended runs is kept.
 *
 * <p>What is beyond either bound may be removed, in batches; a little more may be there than the bound says. Immutable.
 *
 * @since 0.1.0
 */
public final class Keep {
    private static final Duration SHORTEST = Duration.ofHours(1);

    /** Keeps everything. */
    public static final Keep ALL = new Keep(Optional.empty(), Optional.empty());

    private final Optional<Duration> age;
    private final Optional<Long> runs;

    private Keep(Optional<Duration> age, Optional<Long> runs) {
        age.ifPresent(given -> Durations.checked("keep", given, SHORTEST, Durations.LONGEST));
        if (runs.isPresent() && runs.get() < 1) {
            throw new IllegalArgumentException("keep: " + runs.get() + " runs are below 1");
        }
        this.age = age;
        this.runs = runs;
    }

    /**
     * Bounds the age alone.
     *
     * @param age from when a run was planned for, at least 1h
     * @throws IllegalArgumentException if it is shorter
     */
    public static Keep upTo(Duration age) {
        return ALL.andUpTo(age);
    }

    /**
     * Bounds the number of runs alone.
     *
     * @param runs from 1
     * @throws IllegalArgumentException if it is below
     */
    public static Keep newest(long runs) {
        return ALL.andNewest(runs);
    }

    /**
     * {@return a copy that also keeps what is no older}
     *
     * @param longest from when a run was planned for, at least 1h
     * @throws IllegalArgumentException if it is shorter
     */
    public Keep andUpTo(Duration longest) {
        return new Keep(Optional.of(longest), runs);
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

    /**
     * {@return a copy that also keeps at least so many of the newest}
     *
     * @param count from 1
     * @throws IllegalArgumentException if it is below
     */
    public Keep andNewest(long count) {
        return new Keep(age, Optional.of(count));
    }

    /** {@return how long runs are kept after the instant they were planned for, at least 1 h; empty for ever} */
    public Optional<Duration> age() {
        return age;
    }

    /** {@return how many of the newest runs are kept, at least 1; empty for all} */
    public Optional<Long> runs() {
        return runs;
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof Keep that && parts().equals(that.parts());
    }

    @Override
    public int hashCode() {
        return parts().hashCode();
    }

    private List<Object> parts() {
        return List.of(age, runs);
    }
}
