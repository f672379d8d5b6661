package dev.brume;

import dev.brume.history.OneOffView;
import dev.brume.internal.order.Joined;
import dev.brume.internal.order.OneOffOrders;
import dev.brume.internal.result.RunWatch;
import java.sql.Connection;
import java.time.Instant;
import java.util.List;
import java.util.function.Supplier;

/**
 * Orders of single runs, each under a key of the caller's: of each key of a job one waits at most, and each that has become a run may be followed by
 * the next.
 *
 * <p>Each order is a transaction of its own, or part of the caller's by {@link #within(Connection)}. Safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class OneOffs {
    private final OneOffOrders orders;
    private final RunWatch watch;
    private final Supplier<Joined> joined;

    OneOffs(OneOffOrders orders, RunWatch watch, Supplier<Joined> joined) {
        this.orders = orders;
        this.watch = watch;
        this.joined = joined;
    }

    /**
     * {@return the same orders as part of a transaction of the caller's: they hold if that commits, and never were if it rolls back}
     *
     * <p>An order locks the row of its key and nothing else, and is right at any isolation level.
     *
     * @param connection to the database that Brume is in, within a transaction; for the thread that uses it
     */
    public OneOffs within(Connection connection) {
        Joined stated = Joined.of(connection);
        return new OneOffs(orders, watch, () -> stated);
    }

    /**
     * Orders a one-off, if none of its key waits.
     *
     * @return {@code ADDED}, {@code ALREADY_WAITS}, {@code ALREADY_RAN} if the latest run of the key was made for that very instant, or
     *     {@code ALREADY_ORDERED}
     * @throws NotThereException if there is no such job
     * @throws IllegalArgumentException if the key is empty or longer than 150 characters, or its {@linkplain OneOff#once order key} stands
     *     for another order
     */
    public OneOffAnswer add(OneOff oneOff) {
        return answer(orders.add(oneOff, joined.get()));
    }

    /**
     * Orders a one-off, in the place of the one of its key if that still waits; that keeps the number of its run.
     *
     * @return {@code ADDED}, {@code MOVED}, {@code UNCHANGED}, {@code ALREADY_RAN} if the latest run of the key was made for that very instant,
     *     or {@code ALREADY_ORDERED}
     * @throws NotThereException if there is no such job
     * @throws IllegalArgumentException as {@link #add} does
     */
    public OneOffAnswer addOrMove(OneOff oneOff) {
        return answer(orders.addOrMove(oneOff, joined.get()));
    }

    /**
     * Moves a one-off that waits to another instant.
     *
     * @param key as it was ordered by
     * @param at when it is owed from now on; at once if that has passed
     * @return {@code MOVED}, {@code UNCHANGED}, {@code ALREADY_RAN} if its run has been made, or {@code NOT_THERE}
     * @throws NotThereException if there is no such job
     */
    public OneOffAnswer move(JobName job, String key, Instant at) {
        return answer(orders.move(job, key, at, joined.get()));
    }

    /**
     * Drops a one-off that waits.
     *
     * @param key as it was ordered by
     * @return {@code DROPPED}, {@code ALREADY_RAN} if its run has been made, which can be cancelled, or {@code NOT_THERE}
     * @throws NotThereException if there is no such job
     */
    public OneOffAnswer drop(JobName job, String key) {
        return answer(orders.drop(job, key, joined.get()));
    }

    /**
     * Drops the one-offs of a job that wait and whose keys begin with a text, a thousand in one transaction unless that is the caller's.
     *
     * @param prefix of the keys; empty for all
     * @return how many
     * @throws NotThereException if there is no such job
     */
    public int dropAll(JobName job, String prefix) {
        return orders.dropAll(job, prefix, joined.get());
    }

    /**
     * {@return the one-offs of a job that wait and whose keys begin with a text, by their keys}
     *
     * @param prefix of the keys; empty for all
     * @param limit how many at most
     * @throws NotThereException if there is no such job
     */
    public List<OneOffView> waiting(JobName job, String prefix, int limit) {
        return orders.waiting(job, prefix, limit, joined.get());
    }

    private OneOffAnswer answer(OneOffOrders.Placed placed) {
        return new OneOffAnswer(placed.kind(), placed.run().map(run -> new RunHandle(run, watch)));
    }
}
