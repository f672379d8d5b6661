package dev.brume.internal.run;

import dev.brume.GateKey;
import dev.brume.StoreException;
import dev.brume.internal.duty.Instance;
import dev.brume.spi.Transaction;
import dev.brume.spi.WaitingRun;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;

/**
 * Lets runs that wait go where they may for another reason than an end: a pause is over, or there are more places. The note commits together
 * with what made the room, so that no death in between leaves them waiting; whoever wrote it looks at once.
 */
public final class Waiters {
    private final Instance instance;
    private final Settling settling;
    private final Map<Long, Long> noted = new TreeMap<>();

    public Waiters(Instance instance) {
        this.instance = instance;
        this.settling = new Settling(instance);
    }

    /** Notes the first waiting run of each job. */
    public void lookAt(Transaction tx, Collection<Long> jobs) {
        note(tx, jobs.isEmpty() ? List.of() : tx.gates().waitingOf(jobs, 1));
    }

    /** Notes the first run of each job that waits at any of some gates. */
    public void lookAtGates(Transaction tx, Set<GateKey> gates) {
        note(tx, gates.isEmpty() ? List.of() : tx.gates().waitingAt(gates, 1));
    }

    private void note(Transaction tx, List<WaitingRun> waiting) {
        noted.clear();
        waiting.forEach(run -> noted.put(run.run(), run.job()));
        if (!noted.isEmpty()) {
            tx.lookAgain(noted);
        }
    }

    /** Looks at what was noted; to be called when the transaction has committed. */
    public void committed() {
        if (noted.isEmpty()) {
            return;
        }
        try {
            settling.settle(noted.keySet());
        } catch (StoreException e) {
            // What was ordered is committed, and so is the note.
            instance.tellProblem("waiting runs could not be let go yet, the next round will", e);
        }
        instance.call();
    }
}
