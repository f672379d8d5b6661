package dev.brume.notice;

import dev.brume.BrumeException;

/**
 * Tells that a notice was refused for good: sending it again would change nothing.
 *
 * @since 0.1.0
 */
public final class RefusedException extends BrumeException {
    private static final long serialVersionUID = 1L;

    /**
     * Creates it.
     *
     * @param message what the receiver said, for people
     */
    public RefusedException(String message) {
        super(message);
    }
}
