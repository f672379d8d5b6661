package dev.brume.spi;

import dev.brume.GuardedWork;
import dev.brume.OwnTransaction;
import dev.brume.StoreException;
import dev.brume.history.History;
import dev.brume.history.LeaseKey;
import java.sql.Connection;
import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import java.util.function.Supplier;

/**
 * The shared memory of all instances. Safe for use by many threads.
 *
 * <p>Every method may throw {@link StoreException}.
 *
 * @since 0.1.0
 */
public interface Store extends AutoCloseable {

    /**
     * Carries out steps in one transaction at READ COMMITTED and commits.
     *
     * <p>Whatever the function throws rolls everything back. A {@link StoreException} whose trouble is
     * {@code COMMIT_UNCLEAR} means that nobody knows.
     */
    <T> T transact(Function<Transaction, T> steps);

    /**
     * Carries out steps as {@link #transact} does, but without waiting until a pool has a connection free: it keeps one back for those who
     * call this, from the first call until {@link #releaseReserved}.
     */
    default <T> T transactReserved(Function<Transaction, T> steps) {
        return transact(steps);
    }

    /** Gives back what it keeps for {@link #transactReserved}, unless it is being used. */
    default void releaseReserved() {}

    /** {@return whether a transaction that takes its time holds up those alone who need the rows that it has locked} */
    default boolean locksRowsAlone() {
        return false;
    }

    /**
     * Sees to it that no statement lasts longer than an instance's lease, before that instance uses it.
     *
     * @throws IllegalArgumentException if it was told to let them last longer
     */
    default void fit(Duration lease) {}

    /**
     * Carries out steps in a transaction that the caller began and will end, at whatever isolation it has; sets nothing on
     * the connection.
     *
     * @throws UnsupportedOperationException if the store has no connections
     */
    <T> T join(Connection connection, Function<Transaction, T> steps);

    /**
     * Ends a run in one transaction with what some work writes, if the run is still leased as stated.
     *
     * @param limit of each statement and pause in it
     * @param end is asked for the end when the work has written
     * @throws dev.brume.LeaseLostException if the lease no longer holds
     * @throws UnsupportedOperationException if the store has no connections
     * @throws Exception whatever the work throws
     */
    void guarded(LeaseKey lease, Duration limit, GuardedWork work, Supplier<RunEnd> end) throws Exception;

    /**
     * The same in a transaction that the caller begins and ends. If that fails after the work has written, the trouble is {@code COMMIT_UNCLEAR}.
     *
     * @param limit of each statement and pause in it
     * @param own begins and ends the transaction
     * @param end is asked for the end when the work has written
     * @throws dev.brume.LeaseLostException if the lease no longer holds
     * @throws Exception whatever the work throws
     */
    void guarded(LeaseKey lease, Duration limit, OwnTransaction own, GuardedWork work, Supplier<RunEnd> end)
            throws Exception;

    /** Looks at what will be due, in one statement and outside any transaction. */
    Outlook outlook(Look look);

    /** {@return the reading side, for people} */
    History history();

    /**
     * Brings the schema to this version, or checks that it is there.
     *
     * @throws StoreException if the schema is newer than this version, or cannot be created
     */
    void prepare();

    /**
     * {@return what must be known before the store is trusted, each a sentence of its own, such as that it may lose what it has
     * acknowledged; empty if there is nothing, or if it was not {@linkplain #prepare prepared} yet}
     */
    default List<String> concerns() {
        return List.of();
    }

    /**
     * Calls sleeping instances, after a commit and on a connection of its own. It may do nothing, and nobody needs to hear it:
     * everyone looks again within its poll.
     */
    default void wake() {}

    /** {@return whether whoever ends runs can call those who {@linkplain #awaitEnds wait} for it} */
    default boolean callsAtEnds() {
        return false;
    }

    /** Has whoever ends runs call, from a second on, for a time. */
    default void awaitEnds(Duration time) {}

    /** Calls those who wait for ends of runs, after a commit and on a connection of its own; nobody needs to hear it. */
    default void callAtEnds() {}

    /**
     * Begins to hear such calls; empty where the store has no way to tell.
     *
     * @throws StoreException if it cannot be reached
     */
    default Optional<WakeUps> wakeUps() {
        return Optional.empty();
    }

    /**
     * Makes sure that an instance gets the connections that it cannot do without at once.
     *
     * @throws dev.brume.PoolTooSmallException if it does not
     */
    default void checkRoom() {}

    /** Forgets what it keeps in memory of what it once read: the database may have become an older copy of itself. */
    default void forget() {}

    /** {@return what and where the store is, without secrets} */
    String description();

    @Override
    void close();

    /**
     * The work that an instance looks for.
     *
     * @param lanes whose waiting runs count
     * @param ability of the instance; runs that need more do not count
     * @param share the jobs that it plans first
     * @param hint nothing before it is expected to be due or ready; empty for a look from the beginning
     * @param wide whether to look for unsettled ends and lapsed sessions too
     */
    record Look(Collection<String> lanes, Ability ability, Share share, Optional<Instant> hint, boolean wide) {}
}
