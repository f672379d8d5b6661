package dev.brume;

/**
 * Thrown by a handler that knows that no further attempt would go better: the run has failed for good, whatever attempts its job allows.
 *
 * @see RetryAfterException
 * @since 0.1.0
 */
public class FinalFailureException extends Exception {
    private static final long serialVersionUID = 1L;

    /** Creates an exception. */
    public FinalFailureException(String message) {
        super(message);
    }

    /** Creates an exception that another one led to. */
    public FinalFailureException(String message, Throwable cause) {
        super(message, cause);
    }
}
