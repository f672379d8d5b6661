package dev.brume;

import java.sql.Connection;

/**
 * Writes of a run that commit together with its own end, in the same database.
 *
 * @since 0.1.0
 */
@FunctionalInterface
public interface GuardedWork {

    /**
     * Writes.
     *
     * @param connection to the database that Brume is in, within the transaction that ends the run; it cannot be
     *     committed, rolled back or closed here
     */
    void on(Connection connection) throws Exception;
}
