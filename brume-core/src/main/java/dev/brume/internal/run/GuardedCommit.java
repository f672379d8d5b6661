package dev.brume.internal.run;

import dev.brume.LeaseLostException;
import dev.brume.OutcomeUnknownException;
import dev.brume.StoreException;
import dev.brume.StoreException.Trouble;
import dev.brume.history.LeaseKey;
import dev.brume.internal.duty.Instance;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.Transaction;
import java.time.Duration;
import java.util.Optional;

/**
 * Ends a run in one transaction with what its work writes into the same database.
 *
 * <p>The run's row is locked under its lease first, so that either this transaction commits or another instance has the
 * run, never both. The work is never repeated. If the connection dies at the commit, the run's row says how it came out:
 * still there, it was not committed; gone, the ledger tells whose end it was.
 */
final class GuardedCommit {
    private static final Duration LEAST = Duration.ofMillis(100);

    private final Instance instance;

    /** Creates the step. */
    GuardedCommit(Instance instance) {
        this.instance = instance;
    }

    /** The transaction, work and end included. */
    interface Steps {
        void carryOut(LeaseKey lease, Duration most) throws Exception;
    }

    /**
     * Commits.
     *
     * @throws LeaseLostException if the lease no longer holds; nothing was written
     * @throws OutcomeUnknownException if nobody can tell whether it was written
     * @throws StoreException if the store failed; nothing was written
     * @throws Exception whatever the work throws; nothing was written
     */
    void commit(LeasedRun run, Steps steps) throws Exception {
        LeaseKey lease = run.row().leaseKey();
        Duration left = remaining(lease);
        instance.turns().workBegins();
        try {
            steps.carryOut(lease, left);
        } catch (StoreException e) {
            if (e.trouble() != Trouble.COMMIT_UNCLEAR) {
                throw e;
            }
            findOut(run, e);
        } finally {
            instance.turns().workIsOver(instance.time().nanos());
        }
    }

    private Duration remaining(LeaseKey lease) {
        Optional<Instance.Session> session =
                instance.liveSession().filter(live -> live.id().equals(lease.session()));
        Duration left = session.map(live ->
                        Duration.ofNanos(live.leaseEndNanos() - instance.time().nanos()))
                .orElse(Duration.ZERO)
                .minus(instance.settings().margin());
        if (left.compareTo(LEAST) < 0) {
            throw new LeaseLostException("run " + lease.run() + " is no longer leased to this instance");
        }
        return left;
    }

    private void findOut(LeasedRun run, StoreException unclear) {
        LeaseKey lease = run.row().leaseKey();
        Fate fate;
        try {
            fate = instance.transact(tx -> fate(tx, lease));
        } catch (StoreException e) {
            e.addSuppressed(unclear);
            throw new OutcomeUnknownException(
                    "run " + lease.run() + ": the connection was lost at the commit, and the database cannot be asked"
                            + " whether it went through",
                    e);
        }
        switch (fate) {
            case COMMITTED -> {
                // It went through; only the answer was lost.
            }
            case NOT_COMMITTED ->
                throw new StoreException(
                        Trouble.UNREACHABLE,
                        "run " + lease.run() + " was not committed, and nothing was written: " + unclear.getMessage(),
                        unclear);
            case LOST ->
                throw new LeaseLostException("run " + lease.run()
                        + " went to another instance when the connection was lost; nothing was written");
        }
    }

    private enum Fate {
        COMMITTED,
        NOT_COMMITTED,
        LOST
    }

    /** The lock waits for the old connection's transaction, should the server not know yet that it is dead. */
    private static Fate fate(Transaction tx, LeaseKey lease) {
        if (tx.holdLease(lease)) {
            return Fate.NOT_COMMITTED;
        }
        return tx.ended(lease) ? Fate.COMMITTED : Fate.LOST;
    }
}
