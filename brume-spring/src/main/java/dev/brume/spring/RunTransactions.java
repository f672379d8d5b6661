package dev.brume.spring;

import dev.brume.OwnTransaction;
import dev.brume.Run;

/**
 * Carries out work in one of Spring's transactions that ends a run as well. Safe for use by many threads.
 *
 * @see CommitsWithRun
 * @since 0.1.0
 */
public final class RunTransactions {
    private final OwnTransaction transactions;

    RunTransactions(OwnTransaction transactions) {
        this.transactions = transactions;
    }

    /** Work within a transaction. */
    @FunctionalInterface
    public interface Work {
        /** Writes; everything that takes part in Spring's transactions commits with the run. */
        void write() throws Exception;
    }

    /**
     * Ends a run as succeeded, in one transaction with what some work writes.
     *
     * @throws dev.brume.LeaseLostException if the lease no longer holds: nothing was written, another instance has the run
     * @throws Exception whatever the work throws: nothing was written, and the attempt goes on
     * @see Run#commit(OwnTransaction, dev.brume.GuardedWork)
     */
    public void commit(Run run, Work work) throws Exception {
        run.commit(transactions, connection -> work.write());
    }
}
