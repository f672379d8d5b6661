package dev.brume.spi;

import java.time.Duration;
import java.time.Instant;

/**
 * The steps that keep the feed, within one transaction; {@link dev.brume.history.Feed} reads it. Confined to one thread.
 *
 * <p>Nothing is fed while nobody listens. Each transaction that changes something adds one row, without a number; numbers are given to what
 * has been committed, under a lock and in a transaction of their own, so that whoever reads by number neither skips nor repeats, whichever
 * transaction commits first.
 *
 * @since 0.1.0
 */
public interface FeedSteps {

    /**
     * Has what is committed fed for so long from now on, or for two thirds of that at least. Whoever follows says it each time before they read: so
     * they learn at once, by a reset, if nothing was fed for a while.
     */
    void listen(Duration forSoLong);

    /** Notes that nobody listens any more, whoever did. */
    void stopListening();

    /**
     * Tells whether somebody listens, and notes it if nobody does any more: a clock that is put back changes nothing about that.
     */
    boolean isListened();

    /**
     * Gives numbers to what was committed since they were last given.
     *
     * @param limit to how many transactions at most
     * @return to how many
     */
    int number(int limit);

    /**
     * Removes what was fed before an instant, but for the newest, oldest first.
     *
     * @return of how many transactions
     */
    int forget(Instant fedBefore, int limit);
}
