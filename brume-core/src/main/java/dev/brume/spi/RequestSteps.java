package dev.brume.spi;

import java.time.Instant;
import java.util.Optional;

/**
 * The steps on requests that carry a key, so that one that is sent again is answered again and not done again. The key, what is done for it
 * and the answer commit together; a request that takes several transactions is begun in the first and done in the last.
 *
 * @since 0.1.0
 */
public interface RequestSteps {

    /**
     * Notes that a request was heard, or locks it until the end of the transaction if it was heard before. Whoever is in the way with the
     * same key is waited for.
     *
     * @return the request as it was heard before, empty if it is new
     */
    Optional<RequestRow> begin(RequestKey key, String digest);

    /** Notes the answer to a request that this transaction has begun or locked. */
    void done(RequestKey key, String answer, Optional<Long> run);

    /** Removes requests that were heard before an instant and whose run, if they made one, is not on record any more; returns how many. */
    int forget(Instant heardBefore, int limit);
}
