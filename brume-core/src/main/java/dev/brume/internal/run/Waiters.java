package dev.brume.internal.run;

import dev.brume.GateKey;
import dev.brume.spi.Transaction;
import dev.brume.spi.WaitingRun;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;

/**
 * Has whoever settles look at runs that wait, where they may go for another reason than an end: a pause is over, or there are more
 * places. The note commits together with what made the room, so that no death in between leaves them waiting.
 */
public final class Waiters {
    private Waiters() {}

    /** Notes the first waiting run of each job. */
    public static void lookAt(Transaction tx, Collection<Long> jobs) {
        if (!jobs.isEmpty()) {
            note(tx, tx.gates().waitingOf(jobs, 1));
        }
    }

    /** Notes the first waiting run of each job that waits at any of some gates. */
    public static void lookAtGates(Transaction tx, Set<GateKey> gates) {
        if (!gates.isEmpty()) {
            note(tx, tx.gates().waitingAt(gates, 1));
        }
    }

    private static void note(Transaction tx, List<WaitingRun> waiting) {
        Map<Long, Long> looks = new TreeMap<>();
        waiting.forEach(run -> looks.put(run.run(), run.job()));
        if (!looks.isEmpty()) {
            tx.lookAgain(looks);
        }
    }
}
