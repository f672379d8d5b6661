package dev.brume;

import org.jspecify.annotations.Nullable;

/**
 * Work written in Java that is given its payload as a value and answers with one. One handler may serve many runs at once.
 *
 * @param <T> what a payload is
 * @param <R> what an answer is
 * @see Brume#answering(String, PayloadType, PayloadType, TypedAnsweringHandler)
 * @since 0.1.0
 */
@FunctionalInterface
public interface TypedAnsweringHandler<T, R> {

    /**
     * Does the work of one attempt; returning means success.
     *
     * @param payload read by the handler's {@link PayloadType}
     * @return kept as the run's result; null for none
     * @throws Exception anything: the attempt has failed, and the job's {@code ifFailed} decides
     */
    @Nullable
    R answer(Run run, T payload) throws Exception;
}
