package dev.brume.spi;

import java.sql.Connection;
import java.util.Optional;

/**
 * Tells which transaction the caller of an order is in, where a framework knows. Safe for use by many threads.
 *
 * @see dev.brume.Brume.Builder#joining
 * @since 0.1.0
 */
public interface CallerTransactions {
    /** Knows of none: what is not given a connection commits by itself. */
    CallerTransactions NONE = new CallerTransactions() {
        @Override
        public Optional<Connection> current() {
            return Optional.empty();
        }

        @Override
        public void afterCommit(Runnable action) {
            // There is no transaction that could commit.
        }
    };

    /**
     * {@return the connection of the transaction that goes on on this thread, on the database that Brume is in; empty if none goes on}
     *
     * @throws IllegalStateException if one goes on that cannot be joined
     */
    Optional<Connection> current();

    /** Has something done on this thread once that transaction has committed. */
    void afterCommit(Runnable action);
}
