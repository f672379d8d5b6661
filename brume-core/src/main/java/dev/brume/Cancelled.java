package dev.brume;

/**
 * The result of an order to cancel a run.
 *
 * @since 0.1.0
 */
public enum Cancelled {
    /** It was waiting, and has ended. */
    ENDED,
    /** It is running; whoever holds it was asked to stop it. */
    ASKED,
    /** It had ended before. */
    ALREADY_ENDED,
    /** There is no such run. */
    NO_SUCH_RUN
}
