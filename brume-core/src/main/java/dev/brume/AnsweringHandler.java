package dev.brume;

import org.jspecify.annotations.Nullable;

/**
 * Work written in Java that answers. One handler may serve many runs at once.
 *
 * @see Brume#answering(String, AnsweringHandler)
 * @since 0.1.0
 */
@FunctionalInterface
public interface AnsweringHandler {

    /**
     * Does the work of one attempt; returning means success.
     *
     * @return kept as the run's result; null for none
     * @throws Exception anything: the attempt has failed, and the job's {@code ifFailed} decides
     */
    @Nullable
    String answer(Run run) throws Exception;
}
