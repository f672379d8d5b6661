package dev.brume;

import java.time.Duration;
import java.util.Optional;

/**
 * How a store answered one of an instance's own steps.
 *
 * @param step which kind
 * @param took from the question to the answer
 * @param trouble why it failed; empty if it did not
 * @since 0.1.0
 */
public record StoreAnswer(Step step, Duration took, Optional<StoreException.Trouble> trouble) {

    /** The kinds of steps. */
    public enum Step {
        /** A transaction of a duty, a definition or an order. */
        TRANSACTION,
        /** The transaction that keeps the lease. */
        RENEWAL,
        /** A look at what is due. */
        LOOK
    }
}
