package dev.brume.internal.plan;

import dev.brume.GateKey;
import dev.brume.internal.decide.Plan.Verdict;
import dev.brume.spi.OneOffOrder;
import dev.brume.spi.Transaction;
import dev.brume.spi.WaitingRun;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;

/**
 * What the waiting runs of jobs wait at, where one-offs with keys of their own are due. A run that waits for its own key holds up nobody
 * else; one that waits for a place of the job, or for the same key, is overtaken by none. Confined to one thread.
 */
final class KeyedQueues {
    private static final int MOST = 1_000;

    /** By job: the keys that its waiting runs name. */
    private final Map<Long, Set<GateKey>> keys = new HashMap<>();

    /** Jobs of which runs wait that name no key of their own, or of which more wait than are looked at. */
    private final Set<Long> closed = new HashSet<>();

    private KeyedQueues() {}

    static KeyedQueues read(Transaction tx, List<OneOffOrder> due) {
        KeyedQueues queues = new KeyedQueues();
        Set<Long> jobs = new TreeSet<>();
        due.stream().filter(oneOff -> oneOff.exclusive().isPresent()).forEach(oneOff -> jobs.add(oneOff.job()));
        if (jobs.isEmpty()) {
            return queues;
        }
        Map<Long, Integer> waiting = new HashMap<>();
        for (WaitingRun run : tx.gates().waitingOf(jobs, MOST)) {
            queues.waits(run.job(), run.gates());
            if (waiting.merge(run.job(), 1, Integer::sum) == MOST) {
                queues.closed.add(run.job());
            }
        }
        return queues;
    }

    private void waits(long job, List<GateKey> gates) {
        Set<GateKey> own = keys.computeIfAbsent(job, any -> new HashSet<>());
        if (gates.stream()
                .filter(gate -> gate.kind() == GateKey.Kind.ONE_OFF)
                .peek(own::add)
                .findAny()
                .isEmpty()) {
            closed.add(job);
        }
    }

    /** {@return whether a one-off overtakes none of those that wait} */
    boolean lets(OneOffOrder oneOff) {
        return !closed.contains(oneOff.job())
                && oneOff.exclusive()
                        .filter(keys.getOrDefault(oneOff.job(), Set.of())::contains)
                        .isEmpty();
    }

    /** A run that waits from now on holds up those that come after it in the same batch. */
    void noted(OneOffOrder oneOff, Verdict verdict) {
        if (verdict == Verdict.HOLD) {
            waits(oneOff.job(), oneOff.exclusive().stream().toList());
        }
    }
}
