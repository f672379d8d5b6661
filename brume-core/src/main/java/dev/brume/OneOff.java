package dev.brume;

import dev.brume.internal.text.Payloads;
import dev.brume.internal.text.Texts;
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
    /** The longest order key, in characters. */
    public static final int LONGEST_ORDER_KEY = 200;

    private final JobName job;
    private final String key;
    private final Optional<Instant> at;
    private final Duration wait;
    private final Optional<String> payload;
    private final Optional<GateKey> exclusive;
    private final Optional<String> orderKey;

    private OneOff(
            JobName job,
            String key,
            Optional<Instant> at,
            Duration wait,
            Optional<String> payload,
            Optional<GateKey> exclusive,
            Optional<String> orderKey) {
        this.job = Objects.requireNonNull(job, "job");
        this.key = Objects.requireNonNull(key, "key");
        this.at = at;
        this.wait = wait;
        this.payload = payload;
        this.exclusive = exclusive;
        this.orderKey = orderKey;
    }

    /**
     * Begins a one-off.
     *
     * @param job defined by the time that it is ordered
     * @param key unique within the job for ever, so that an order given twice makes one run; 1 to 150 characters
     */
    public static OneOff of(JobName job, String key) {
        return new OneOff(
                job, key, Optional.empty(), Duration.ZERO, Optional.empty(), Optional.empty(), Optional.empty());
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
        return new OneOff(job, key, Optional.of(instant), Duration.ZERO, payload, exclusive, orderKey);
    }

    /**
     * {@return one that is owed after a while, counted from when it is ordered, however long ago a transaction that it is ordered in began and
     * whenever that commits}
     *
     * @param length at once if it is below 0 s
     */
    public OneOff in(Duration length) {
        return new OneOff(job, key, Optional.empty(), length, payload, exclusive, orderKey);
    }

    /**
     * {@return one whose run is given a payload; without, it is given the job's own}
     *
     * @param text at most {@value Job#LONGEST_PAYLOAD} characters
     * @throws IllegalArgumentException if it is longer
     */
    public OneOff payload(String text) {
        Payloads.checked(text);
        return new OneOff(job, key, at, wait, Optional.of(text), exclusive, orderKey);
    }

    /**
     * {@return one of which at most one run goes on at once, of all one-offs of the job's namespace that name the same}
     *
     * <p>It waits for its turn without holding up one-offs with other keys. How many runs of the job go on at once is for {@link Job.Builder#ifBusy} to say.
     *
     * @param name such as {@code customer-4711}; by the rule of jobs' names
     * @throws IllegalArgumentException if it is not a name
     */
    public OneOff exclusive(String name) {
        if (!JobName.isName(name)) {
            throw new IllegalArgumentException(
                    "exclusive: '" + name + "' is not a name (expected " + JobName.RULE + ")");
        }
        GateKey gate = new GateKey(GateKey.Kind.ONE_OFF, SharedName.in(job.namespace(), name, "exclusive"));
        return new OneOff(job, key, at, wait, payload, Optional.of(gate), orderKey);
    }

    /**
     * {@return one that is ordered once only, however often the order is given, as long as its run is on record, and for a day at least}
     *
     * @param text of the caller's, such as the number of what it works off; unique within the job's namespace. At most
     *     {@value #LONGEST_ORDER_KEY} characters
     * @throws IllegalArgumentException if it is empty or longer
     */
    public OneOff once(String text) {
        Texts.checked("order key", text, LONGEST_ORDER_KEY);
        if (text.isBlank()) {
            throw new IllegalArgumentException("order key: it is empty; give a text that stands for what is ordered");
        }
        return new OneOff(job, key, at, wait, payload, exclusive, Optional.of(text));
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

    /** {@return the key of which at most one run goes on at once} */
    public Optional<GateKey> exclusive() {
        return exclusive;
    }

    /** {@return the key by which the order is known again} */
    public Optional<String> orderKey() {
        return orderKey;
    }

    @Override
    public String toString() {
        return job + " '" + key + "', due " + at.map(Instant::toString).orElseGet(() -> "in " + wait);
    }
}
