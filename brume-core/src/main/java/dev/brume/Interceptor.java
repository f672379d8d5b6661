package dev.brume;

/**
 * Goes around the work of attempts, to set up what the work needs and to take it away again: the tenant, the user, a trace.
 *
 * <p>It runs on the thread that carries the attempt out, within the job's time limit. Safe for use by many threads.
 *
 * @see Brume#around
 * @since 0.1.0
 */
@FunctionalInterface
public interface Interceptor {

    /** The rest of an attempt: the next interceptor, or the work. */
    @FunctionalInterface
    interface Attempt {
        /**
         * Goes on. To be called once.
         *
         * @throws Exception whatever the work throws; the attempt fails of what leaves the first interceptor
         * @throws IllegalStateException if it was called before
         */
        void proceed() throws Exception;
    }

    /**
     * Goes around an attempt.
     *
     * @param run what is carried out
     * @param attempt the rest of it, to be {@linkplain Attempt#proceed proceeded} with once; an interceptor that returns without that fails the
     *     attempt
     * @throws Exception anything: the attempt has failed of it, unless it was committed already
     */
    void around(Run run, Attempt attempt) throws Exception;
}
