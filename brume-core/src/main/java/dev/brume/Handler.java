package dev.brume;

/**
 * Work written in Java. One handler may serve many runs at once, on different threads.
 *
 * @since 0.1.0
 */
@FunctionalInterface
public interface Handler {

    /**
     * Does the work of one attempt; returning means success.
     *
     * <p>The thread is interrupted when the attempt should stop; {@link Run#stopAsked()} says why.
     *
     * @throws Exception anything: the attempt has failed, and the job's {@code ifFailed} decides
     */
    void run(Run run) throws Exception;
}
