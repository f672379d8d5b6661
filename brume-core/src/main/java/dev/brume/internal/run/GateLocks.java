package dev.brume.internal.run;

import dev.brume.GateKey;
import dev.brume.Job;
import dev.brume.StoreException;
import dev.brume.history.Gate;
import dev.brume.internal.decide.Gates;
import dev.brume.spi.Transaction;
import java.util.Collection;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;

/** Locks the gates that jobs share; jobs that share none cost nothing. */
public final class GateLocks {
    private GateLocks() {}

    /** Locks the gates of jobs whose rows are locked. */
    public static Gates of(Transaction tx, Collection<Job> jobs) {
        Set<GateKey> keys = new TreeSet<>();
        jobs.forEach(job -> keys.addAll(job.gates()));
        return on(tx, keys);
    }

    /**
     * Locks the gates of jobs whose rows are locked, and keys of one-offs, which are added where they are not there yet.
     *
     * @throws StoreException if a key went before it could be locked, so that all begins again
     */
    public static Gates of(Transaction tx, Collection<Job> jobs, Set<GateKey> own) {
        if (own.isEmpty()) {
            return of(tx, jobs);
        }
        tx.gates().open(own);
        Set<GateKey> keys = new TreeSet<>(own);
        jobs.forEach(job -> keys.addAll(job.gates()));
        Map<GateKey, Gate> locked = tx.gates().lock(keys);
        if (!locked.keySet().containsAll(own)) {
            throw new StoreException(
                    StoreException.Trouble.CONFLICT, "a key of one-offs went as it was asked for", null);
        }
        return new Gates(locked, tx::now);
    }

    /** Locks gates. */
    static Gates on(Transaction tx, Collection<GateKey> keys) {
        return new Gates(keys.isEmpty() ? Map.of() : tx.gates().lock(keys), tx::now);
    }

    /** Writes what changed. */
    public static void write(Transaction tx, Gates gates) {
        if (!gates.changed().isEmpty()) {
            tx.gates().write(gates.changed());
        }
    }
}
