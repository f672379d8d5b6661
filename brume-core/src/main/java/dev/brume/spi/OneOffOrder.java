package dev.brume.spi;

import dev.brume.internal.text.Texts;
import java.time.Instant;
import java.util.Optional;

/**
 * A run to be made once, ordered by a key of the caller's.
 *
 * @param job the job's id
 * @param key unique within the job, for ever
 * @param dueAt when
 * @param payload what the run is given instead of the job's own
 * @param orderedBy who ordered it
 * @param parent the run that it follows, if the end of that ordered it
 * @since 0.1.0
 */
public record OneOffOrder(
        long job, String key, Instant dueAt, Optional<String> payload, String orderedBy, Optional<Long> parent) {
    /** The longest key, in characters. */
    public static final int LONGEST_KEY = 150;

    private static final String FOLLOWING = "^";

    /** The order that follows the end of a run; its key is none that a caller may choose. */
    public static OneOffOrder following(long job, long parent, Instant dueAt) {
        return new OneOffOrder(job, FOLLOWING + parent, dueAt, Optional.empty(), "run " + parent, Optional.of(parent));
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
