package dev.brume.notice;

/**
 * Code of an application that is handed notices.
 *
 * @since 0.1.0
 */
@FunctionalInterface
public interface Receiver {

    /**
     * Takes a notice. It is called on a thread of its own, never on one that runs or renews, and may be handed a notice of the same id again.
     *
     * @throws Exception if it could not be taken; it is handed the notice again later
     */
    void take(Notice notice) throws Exception;
}
