package dev.brume.history;

import java.time.Duration;

/**
 * The reading side of the feed: the changes that were committed, in one order for all who follow. Safe for use by many threads.
 *
 * @since 0.1.0
 */
public interface Feed {

    /** {@return the place behind all that has a number} */
    FeedPosition end();

    /**
     * {@return what comes after a place}
     *
     * @param position where the last event was that is known
     * @param limit how many transactions at most
     */
    FeedPage after(FeedPosition position, int limit);

    /**
     * {@return whether something was committed that has no number yet, or whoever listens is to say so again}
     *
     * @param listened for how long they say that they do
     */
    boolean needsCare(Duration listened);
}
