package dev.brume;

import java.time.Duration;
import java.util.Objects;

/**
 * Thrown by a handler that knows how long another attempt would be pointless. It counts as a failed attempt; the next is made
 * after the job's own wait or after this one, whichever is longer.
 *
 * @see FinalFailureException
 * @since 0.1.0
 */
public class RetryAfterException extends Exception {
    private static final long serialVersionUID = 1L;

    private final Duration until;

    /**
     * Creates an exception.
     *
     * @param until the least wait
     */
    public RetryAfterException(String message, Duration until) {
        super(message);
        this.until = Objects.requireNonNull(until, "until");
    }

    /** {@return the least wait} */
    public Duration until() {
        return until;
    }
}
