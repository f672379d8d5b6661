package dev.brume;

import org.jspecify.annotations.Nullable;

/**
 * The base of all that Brume throws on purpose, except for wrong arguments.
 *
 * @since 0.1.0
 */
public class BrumeException extends RuntimeException {
    private static final long serialVersionUID = 1L;

    /** Creates an exception. */
    public BrumeException(String message) {
        super(message);
    }

    /** Creates an exception with a cause. */
    public BrumeException(String message, @Nullable Throwable cause) {
        super(message, cause);
    }
}
