package dev.brume;

import java.sql.Connection;
import java.time.Duration;

/**
 * A lease by name that this instance has taken, for code that brings its own timer or loop.
 *
 * <p>It is renewed in the background until it is closed, or the database cannot be reached for too long. A process that
 * dies, or is stopped, loses it after the stated time at most. Work that was begun under it may outlive it, so effects within
 * the same database should be written under {@link #check}, and others carry the {@link #fence}. Safe for use by many threads.
 *
 * @since 0.1.0
 */
public interface NamedLease extends AutoCloseable {
    /** The shortest time a lease may be taken for. */
    Duration SHORTEST = Duration.ofSeconds(1);

    /** The longest time a lease may be taken for. */
    Duration LONGEST = Duration.ofDays(1);

    /** {@return its name} */
    String name();

    /** {@return its fence, higher than that of any lease of this name before} */
    long fence();

    /** {@return whether it still holds, as far as this instance can know without asking: once it does not, it never will again} */
    boolean isHeld();

    /**
     * Makes sure of it in a transaction of the caller's: nobody else can take the name until that ends.
     *
     * @param connection to the database that Brume is in, within a transaction
     * @throws LeaseLostException if it does not hold any more
     */
    void check(Connection connection);

    /** Gives it back; the name may be taken again once its cool-down is over. Does nothing if it was lost. */
    @Override
    void close();
}
