package dev.brume;

/** Thrown when a run's payload cannot be read as its type; no further attempt could, so the run has failed for good. */
public class UnreadablePayloadException extends BrumeException {
    private static final long serialVersionUID = 1L;

    /** Creates an exception. */
    public UnreadablePayloadException(String message, Throwable cause) {
        super(message, cause);
    }
}
