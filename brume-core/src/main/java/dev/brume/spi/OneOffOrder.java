package dev.brume.spi;

import dev.brume.GateKey;
import dev.brume.Job;
import dev.brume.internal.text.Texts;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;

/**
 * A run to be made once, ordered by a key of the caller's.
 *
 * @param run the number of the run that it becomes
 * @param job the job's id
 * @param key unique within the job among those that wait
 * @param dueAt when
 * @param payload what the run is given instead of the job's own
 * @param orderedBy who ordered it
 * @param parent the run that it follows, if the end of that ordered it
 * @param exclusive the key of which at most one run goes on at once
 * @param trace the W3C trace context ({@code traceparent}) of what ordered it; empty if nobody traced that
 * @since 0.1.0
 */
public record OneOffOrder(
        long run,
        long job,
        String key,
        Instant dueAt,
        Optional<String> payload,
        String orderedBy,
        Optional<Long> parent,
        Optional<GateKey> exclusive,
        Optional<String> trace) {
    /** The longest key, in characters. */
    public static final int LONGEST_KEY = 150;

    private static final String FOLLOWING = "^";

    /** The order that follows the end of a run; its key is none that a caller may choose. */
    public static OneOffOrder following(long run, long job, long parent, Instant dueAt, Optional<String> trace) {
        return new OneOffOrder(
                run,
                job,
                FOLLOWING + parent,
                dueAt,
                Optional.empty(),
                "run " + parent,
                Optional.of(parent),
                Optional.empty(),
                trace);
    }

    /** {@return the same, due at another instant} */
    public OneOffOrder at(Instant other) {
        return new OneOffOrder(run, job, key, other, payload, orderedBy, parent, exclusive, trace);
    }

    /** {@return the same as another run} */
    public OneOffOrder as(long other) {
        return new OneOffOrder(other, job, key, dueAt, payload, orderedBy, parent, exclusive, trace);
    }

    /** {@return the places that its run needs: those of its job, and its own} */
    public List<GateKey> gates(Job of) {
        return exclusive
                .map(own -> Stream.concat(of.gates().stream(), Stream.of(own)).toList())
                .orElseGet(of::gates);
    }

    /** {@return whether it orders what another does: the same, at the same time} */
    public boolean asksTheSameAs(OneOffOrder other) {
        return dueAt.equals(other.dueAt) && payload.equals(other.payload) && exclusive.equals(other.exclusive);
    }

    /**
     * Checks a key that a caller chose.
     *
     * @throws IllegalArgumentException if it is kept for follow-ups
     */
    public static String chosen(String key) {
        if (key.startsWith(FOLLOWING)) {
            throw new IllegalArgumentException(
                    "one-off key '" + key + "' begins with '" + FOLLOWING + "', which is kept for follow-ups");
        }
        return key;
    }

    /**
     * Creates a one-off.
     *
     * @throws IllegalArgumentException if the key is empty or too long
     */
    public OneOffOrder {
        Texts.checked("one-off key", key, LONGEST_KEY);
        if (key.isBlank()) {
            throw new IllegalArgumentException(
                    "one-off key: " + key.length() + " characters is outside 1 to " + LONGEST_KEY);
        }
    }
}
