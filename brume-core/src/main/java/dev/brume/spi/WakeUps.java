package dev.brume.spi;

import dev.brume.StoreException;
import java.time.Duration;
import java.util.Set;

/**
 * Hears of what is due earlier than a sleeping instance may expect. Confined to one thread.
 *
 * @since 0.1.0
 */
public interface WakeUps extends AutoCloseable {

    /**
     * Waits.
     *
     * @return what someone called for; nothing if nobody did
     * @throws StoreException if the store cannot be reached any more
     */
    Set<Call> await(Duration limit);

    /** What somebody calls for. */
    enum Call {
        /** There is work to do. */
        WORK,
        /** Runs have ended. */
        ENDS
    }

    @Override
    void close();
}
