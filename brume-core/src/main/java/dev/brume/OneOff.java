package dev.brume;

import dev.brume.internal.text.Payloads;
import java.time.Duration;
import java.time.Instant;
import java.util.Objects;
import java.util.Optional;

/**
 * A single run of a job, to be ordered under a key of the caller's: {@code OneOff.of("bridge-closure", "closure-17").at(instant)}.
 *
 * <p>It is owed at once unless it says when. Immutable: each method returns another one.
 *
 * @see OneOffs
 * @since 0.1.0
 */
public final class OneOff {
    private final JobName job;
    private final String key;
    private final Optional<Instant> at;
    private final Duration wait;
    private final Optional<String> payload;

    private OneOff(JobName job, String key, Optional<Instant> at, Duration wait, Optional<String> payload) {
        this.job = Objects.requireNonNull(job, "job");
        this.key = Objects.requireNonNull(key, "key");
        this.at = at;
        this.wait = wait;
        this.payload = payload;
    }

    /**
     * Begins a one-off.
     *
     * @param job defined by the time that it is ordered
     * @param key unique within the job for ever, so that an order given twice makes one run; 1 to 150 characters
     */
    public static OneOff of(JobName job, String key) {
        return new OneOff(job, key, Optional.empty(), Duration.ZERO, Optional.empty());
    }

    /**
     * Begins a one-off.
     *
     * @param job {@code name} or {@code namespace/name}
     * @param key unique within the job for ever, so that an order given twice makes one run; 1 to 150 characters
     * @throws IllegalArgumentException if the name is neither
     */
    public static OneOff of(String job, String key) {
        return of(JobName.parse(job), key);
    }

    /** {@return one that is owed at an instant; at once if that has passed} */
    public OneOff at(Instant instant) {
        return new OneOff(job, key, Optional.of(instant), Duration.ZERO, payload);
    }

    /**
     * {@return one that is owed after a while, counted from when it is ordered, however long ago a transaction that it is ordered in began and
     * whenever that commits}
     *
     * @param length at once if it is below 0 s
     */
    public OneOff in(Duration length) {
        return new OneOff(job, key, Optional.empty(), length, payload);
    }

    /**
     * {@return one whose run is given a payload; without, it is given the job's own}
     *
     * @param text at most {@value Job#LONGEST_PAYLOAD} characters
     * @throws IllegalArgumentException if it is longer
     */
    public OneOff payload(String text) {
        Payloads.checked(text);
        return new OneOff(job, key, at, wait, Optional.of(text));
    }

    /** {@return whose run it is} */
    public JobName job() {
        return job;
    }

    /** {@return its key} */
    public String key() {
        return key;
    }

    /** {@return when it is owed, if it says an instant} */
    public Optional<Instant> instant() {
        return at;
    }

    /** {@return after what time it is owed, if it says no instant} */
    public Duration delay() {
        return wait;
    }

    /** {@return what its run is given, if not the job's own} */
    public Optional<String> payload() {
        return payload;
    }

    @Override
    public String toString() {
        return job + " '" + key + "', due " + at.map(Instant::toString).orElseGet(() -> "in " + wait);
    }
}
