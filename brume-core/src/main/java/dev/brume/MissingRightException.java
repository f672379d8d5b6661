package dev.brume;

import org.jspecify.annotations.Nullable;

/**
 * Thrown when the database user lacks a right: to create the tables, or to do with them what is asked.
 *
 * @since 0.1.0
 */
public class MissingRightException extends StoreException {
    private static final long serialVersionUID = 1L;

    /** Creates an exception. */
    public MissingRightException(String message, @Nullable Throwable cause) {
        super(Trouble.NOT_WRITABLE, message, cause);
    }
}
