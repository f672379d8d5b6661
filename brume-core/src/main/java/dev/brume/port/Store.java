package dev.brume.port;

import java.time.Instant;
import java.util.Collection;
import java.util.Optional;
import java.util.function.Function;

/**
 * The shared memory of all instances. Safe for use by many threads.
 *
 * <p>Every method may throw {@link StoreException}.
 */
public interface Store extends AutoCloseable {

    /**
     * Carries out steps in one transaction at READ COMMITTED and commits.
     *
     * <p>Whatever the function throws rolls everything back. A {@link StoreException} whose trouble is
     * {@code COMMIT_UNCLEAR} means that nobody knows.
     */
    <T> T transact(Function<Transaction, T> steps);

    /** Looks at what will be due, in one statement and outside any transaction. */
    Outlook outlook(Look look);

    /** Returns the reading side, for people. */
    History history();

    /**
     * Brings the schema to this version, or checks that it is there.
     *
     * @throws StoreException if the schema is newer than this version, or cannot be created
     */
    void prepare();

    /** Returns what and where the store is, without secrets. */
    String description();

    @Override
    void close();

    /**
     * What to look for.
     *
     * @param lanes whose waiting runs count
     * @param handlers that the instance knows; runs that need another do not count
     * @param hint nothing before it is expected to be due or ready; empty for a look from the beginning
     * @param wide whether to look for unsettled ends and lapsed sessions too
     */
    record Look(Collection<String> lanes, Collection<String> handlers, Optional<Instant> hint, boolean wide) {}
}
