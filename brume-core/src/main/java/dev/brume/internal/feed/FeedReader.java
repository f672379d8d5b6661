package dev.brume.internal.feed;

import dev.brume.history.Feed;
import dev.brume.history.FeedPage;
import dev.brume.history.FeedPosition;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.session.Epochs;
import java.time.Duration;

/**
 * Reads the feed, and sees to it that there is something to read: it says that it listens, gives numbers to what was committed, and raises the
 * epoch if the database turns out to be an older copy, whose numbers may have been given before. Any instance can go on where another one
 * stopped. Safe for use by many threads.
 */
public final class FeedReader {
    /** For how long what is committed is fed after somebody last asked for it. */
    public static final Duration LISTENED = Duration.ofSeconds(30);

    private static final int BATCH = 500;

    private final Instance instance;

    /** Creates a reader. */
    public FeedReader(Instance instance) {
        this.instance = instance;
    }

    /** {@return the place behind all that was committed so far} */
    public FeedPosition begin() {
        numberAll();
        return instance.store().history().feed().end();
    }

    /**
     * Reads on.
     *
     * @param position behind which
     * @param limit how many transactions' events at most
     * @return what came since; nothing if nothing did
     */
    public FeedPage read(FeedPosition position, int limit) {
        Feed feed = instance.store().history().feed();
        if (feed.needsCare(LISTENED)) {
            numberAll();
        }
        return feed.after(position, limit);
    }

    private void numberAll() {
        int numbered;
        do {
            numbered = instance.transact(tx -> {
                Epochs.current(instance, tx);
                tx.feed().listen(LISTENED);
                return tx.feed().number(BATCH);
            });
        } while (numbered == BATCH);
    }
}
