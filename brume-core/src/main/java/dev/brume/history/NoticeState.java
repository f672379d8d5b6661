package dev.brume.history;

/**
 * Where the delivery of a notice stands.
 *
 * @since 0.1.0
 */
public enum NoticeState {
    /** It is to be sent, for the first time or again. */
    WAITING,
    /** The receiver has said that it has it. */
    DELIVERED,
    /** It was refused, or became too old; an order sends it again. */
    UNDELIVERED
}
