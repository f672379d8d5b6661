package dev.brume;

/**
 * Work written in Java that is given its payload as a value. One handler may serve many runs at once.
 *
 * @since 0.1.0
 */
@FunctionalInterface
public interface TypedHandler<T> {

    /**
     * Does the work of one attempt; returning means success.
     *
     * @param payload read by the handler's {@link PayloadType}
     * @throws Exception anything: the attempt has failed, and the job's {@code ifFailed} decides
     * @see Handler#run
     */
    void run(Run run, T payload) throws Exception;
}
