package dev.brume;

/**
 * Thrown when a run's lease no longer holds: nothing was written, and another instance has the run or will.
 *
 * @since 0.1.0
 */
public class LeaseLostException extends BrumeException {
    private static final long serialVersionUID = 1L;

    /** Creates an exception. */
    public LeaseLostException(String message) {
        super(message);
    }
}
