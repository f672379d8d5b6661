package dev.brume.port;

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
 */
public record OneOff(long job, String key, Instant dueAt, Optional<String> payload, String orderedBy) {
    /** The longest key, in characters. */
    public static final int LONGEST_KEY = 150;

    /**
     * Creates a one-off.
     *
     * @throws IllegalArgumentException if the key is empty or too long
     */
    public OneOff {
        if (key.isBlank() || key.length() > LONGEST_KEY) {
            throw new IllegalArgumentException(
                    "one-off key: " + key.length() + " characters is outside 1 to " + LONGEST_KEY);
        }
    }
}
