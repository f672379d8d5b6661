package dev.brume.internal.run;

import dev.brume.GateKey;
import dev.brume.Job;
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

    /** Locks gates. */
    static Gates on(Transaction tx, Collection<GateKey> keys) {
        return new Gates(keys.isEmpty() ? Map.of() : tx.gates().lock(keys));
    }

    /** Writes what changed. */
    public static void write(Transaction tx, Gates gates) {
        if (!gates.changed().isEmpty()) {
            tx.gates().write(gates.changed());
        }
    }
}
