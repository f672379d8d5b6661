package dev.brume;

import java.time.Duration;

/**
 * How an application carries out work in a transaction of its own kind, such as by its framework, on the database that Brume is in.
 *
 * @see Run#commit(OwnTransaction, GuardedWork)
 * @since 0.1.0
 */
@FunctionalInterface
public interface OwnTransaction {

    /**
     * Begins a transaction, carries out work in it, and commits.
     *
     * @param limit how long it may last: the lease of the run ends then
     * @param work to be called once, on this thread, with the transaction's connection; if it throws, the transaction is to be rolled back
     * @throws Exception what the work throws, or what kept the transaction from beginning or from committing
     */
    void carryOut(Duration limit, GuardedWork work) throws Exception;
}
