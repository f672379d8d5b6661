package dev.brume;

import org.jspecify.annotations.Nullable;

/**
 * Thrown when an instance is started on a pool that does not give it the connections that it needs at once.
 *
 * @since 0.1.0
 */
public class PoolTooSmallException extends StoreException {
    private static final long serialVersionUID = 1L;

    /** Creates an exception. */
    public PoolTooSmallException(String message, @Nullable Throwable cause) {
        super(Trouble.UNREACHABLE, message, cause);
    }
}
