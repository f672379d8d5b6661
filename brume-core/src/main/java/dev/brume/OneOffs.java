package dev.brume;

import dev.brume.internal.order.OneOffOrders;
import java.sql.Connection;
import java.time.Instant;
import java.util.Optional;

/**
 * Orders of single runs, each under a key of the caller's.
 *
 * <p>Each order is a transaction of its own, or part of the caller's by {@link #within(Connection)}. Safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class OneOffs {
    private final OneOffOrders orders;
    private final Optional<Connection> joined;

    OneOffs(OneOffOrders orders, Optional<Connection> joined) {
        this.orders = orders;
        this.joined = joined;
    }

    /**
     * {@return the same orders as part of a transaction of the caller's: they hold if that commits, and never were if it rolls back}
     *
     * <p>Adding one adds one row, locks nothing else, and is right at any isolation level.
     *
     * @param connection to the database that Brume is in, within a transaction; for the thread that uses it
     */
    public OneOffs within(Connection connection) {
        return new OneOffs(orders, Optional.of(connection));
    }

    /**
     * Orders a one-off.
     *
     * @return false if the job has, or had, a one-off of that key; nothing is changed then
     * @throws NotThereException if there is no such job
     * @throws IllegalArgumentException if the key is empty or longer than 150 characters
     */
    public boolean add(OneOff oneOff) {
        return orders.add(oneOff, joined);
    }

    /**
     * Moves a one-off that waits to another instant.
     *
     * @param key as it was ordered by
     * @param at when it is owed from now on; at once if that has passed
     * @return false if none of that key waits: there never was one, or a run has been made of it
     * @throws NotThereException if there is no such job
     */
    public boolean move(JobName job, String key, Instant at) {
        return orders.move(job, key, at, joined);
    }

    /**
     * Orders a one-off, in the place of the one of its key if that still waits.
     *
     * @return false if a run has been made of that key already; nothing is changed then
     * @throws NotThereException if there is no such job
     * @throws IllegalArgumentException if the key is empty or longer than 150 characters
     */
    public boolean addOrMove(OneOff oneOff) {
        return orders.addOrMove(oneOff, joined);
    }

    /**
     * Drops a one-off that waits; its key is free again.
     *
     * @param key as it was ordered by
     * @return false if none of that key waits: there never was one, or a run has been made of it, which can be cancelled
     * @throws NotThereException if there is no such job
     */
    public boolean drop(JobName job, String key) {
        return orders.drop(job, key, joined);
    }
}
