package dev.brume.spi;

import dev.brume.StoreException;
import java.time.Duration;

/**
 * Hears of what is due earlier than a sleeping instance may expect. Confined to one thread.
 *
 * @since 0.1.0
 */
public interface WakeUps extends AutoCloseable {

    /**
     * Waits.
     *
     * @return whether someone called
     * @throws StoreException if the store cannot be reached any more
     */
    boolean await(Duration limit);

    @Override
    void close();
}
