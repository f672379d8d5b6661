package dev.brume;

/**
 * Thrown when definitions are not what they were when someone decided to change them; nothing was changed.
 *
 * @since 0.1.0
 */
public final class EditConflictException extends BrumeException {
    private static final long serialVersionUID = 1L;

    /** Creates one. */
    public EditConflictException(String message) {
        super(message);
    }
}
