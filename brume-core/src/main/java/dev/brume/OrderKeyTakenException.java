package dev.brume;

import java.time.Instant;

/**
 * Thrown when the key of an order stands for another order already.
 *
 * @see Orders#once
 * @since 0.1.0
 */
public final class OrderKeyTakenException extends IllegalArgumentException {
    private static final long serialVersionUID = 1L;

    /**
     * Creates the exception.
     *
     * @param key that was given
     * @param since when it was first given
     */
    public OrderKeyTakenException(String key, Instant since) {
        super("order key '" + key + "' stands for another order already, given at " + since
                + "; give each order a key of its own, or none");
    }
}
