package dev.brume;

import org.jspecify.annotations.Nullable;

/**
 * Thrown when the store can be read alone: a replica, a database or a connection that is set so.
 *
 * @since 0.1.0
 */
public class ReadOnlyStoreException extends StoreException {
    private static final long serialVersionUID = 1L;

    /** Creates an exception. */
    public ReadOnlyStoreException(String message, @Nullable Throwable cause) {
        super(Trouble.NOT_WRITABLE, message, cause);
    }
}
