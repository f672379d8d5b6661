package dev.brume;

/**
 * Thrown when the connection died while a guarded transaction committed, and the database could not be asked since whether
 * it did. The ledger knows once it can be reached: the run is either there, succeeded, or it will be run again.
 *
 * @since 0.1.0
 */
public class OutcomeUnknownException extends BrumeException {
    private static final long serialVersionUID = 1L;

    /** Creates an exception. */
    public OutcomeUnknownException(String message, Throwable cause) {
        super(message, cause);
    }
}
