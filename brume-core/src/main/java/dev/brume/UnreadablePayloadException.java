package dev.brume;

/**
 * Thrown when a run's payload cannot be read as its type; no further attempt could, so the run has failed for good.
 *
 * @since 0.1.0
 */
public class UnreadablePayloadException extends BrumeException {
    private static final long serialVersionUID = 1L;

    /** Creates an exception. */
    public UnreadablePayloadException(String message, Throwable cause) {
        super(message, cause);
    }
}
