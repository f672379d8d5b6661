package dev.brume.internal.run;

import dev.brume.GateKey;
import dev.brume.StoreException;
import dev.brume.history.Gate;
import dev.brume.history.JobRow;
import dev.brume.internal.decide.Gates;
import dev.brume.internal.duty.Instance;
import dev.brume.spi.Transaction;
import dev.brume.spi.WaitingRun;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Stream;

/**
 * Gives places that came free to runs that wait for them, in one transaction.
 *
 * <p>Which jobs have someone waiting at the gates is read before anything is locked, so that locks can be taken in their
 * order: jobs, then gates, then runs; it is read again under those locks.
 */
public final class Releases {
    /** The runs that wait at a gate, by priority and then by time; those of one job by time alone. */
    private static final Comparator<WaitingRun> ORDER = Comparator.comparingInt((WaitingRun held) -> -held.priority())
            .thenComparing(WaitingRun::planned)
            .thenComparing(WaitingRun::run);

    private static final int MOST_LOOKED_AT = 4;

    /** Where runs wait for keys of their own, those behind them may go. */
    private static final int MOST_WITH_KEYS = 200;

    private final Instance instance;
    private final Transaction tx;
    private final Map<Long, JobRow> jobs;
    private final List<WaitingRun> candidates;
    private final Gates gates;

    private Releases(Instance instance, Transaction tx, Collection<Long> ended, Collection<GateKey> freed) {
        this.instance = instance;
        this.tx = tx;
        int most = Math.max(MOST_LOOKED_AT, freed.size());
        List<WaitingRun> atGates = freed.isEmpty() ? List.of() : tx.gates().waitingAt(Set.copyOf(freed), most);
        Set<Long> ids = new TreeSet<>(ended);
        atGates.forEach(held -> ids.add(held.job()));
        jobs = new LinkedHashMap<>(tx.lockJobsById(ids));
        candidates = candidates(
                tx, jobs.values(), freed.isEmpty() ? List.of() : tx.gates().waitingAt(Set.copyOf(freed), most));
        Set<GateKey> keys = new TreeSet<>(freed);
        candidates.forEach(held -> keys.addAll(held.gates()));
        gates = GateLocks.on(tx, keys);
        if (!freed.isEmpty()) {
            refuseLatecomers(tx.gates().waitingAt(Set.copyOf(freed), most));
        }
    }

    /**
     * Locks jobs, and the jobs and gates of whoever waits where places come free.
     *
     * @param ended jobs that give places back
     * @param freed gates that give places back, as often as they do
     */
    public static Releases lock(Instance instance, Transaction tx, Collection<Long> ended, Collection<GateKey> freed) {
        return new Releases(instance, tx, ended, freed);
    }

    /** A run queued before the gates were locked would wait for ever, so start again. */
    private void refuseLatecomers(List<WaitingRun> waiting) {
        if (!waiting.stream().allMatch(held -> jobs.containsKey(held.job()))) {
            throw new StoreException(
                    StoreException.Trouble.CONFLICT, "a run came to wait at a gate while a place came free", null);
        }
    }

    /** Under the locks of their jobs nobody else can let these go. */
    private static List<WaitingRun> candidates(Transaction tx, Collection<JobRow> jobs, List<WaitingRun> atGates) {
        List<JobRow> waiting = jobs.stream().filter(row -> row.waiting() > 0).toList();
        if (waiting.isEmpty()) {
            return List.of();
        }
        int most = waiting.stream().mapToInt(JobRow::cap).max().orElse(1);
        List<Long> ids = waiting.stream().map(JobRow::id).toList();
        List<WaitingRun> first = tx.gates().waitingOf(ids, most);
        boolean keyed = first.size() >= most
                && first.stream()
                        .flatMap(run -> run.gates().stream())
                        .anyMatch(gate -> gate.kind() == GateKey.Kind.ONE_OFF);
        List<WaitingRun> more = keyed ? tx.gates().waitingOf(ids, Math.max(most, MOST_WITH_KEYS)) : first;
        return Stream.concat(more.stream(), atGates.stream().filter(run -> ids.contains(run.job())))
                .distinct()
                .sorted(ORDER)
                .toList();
    }

    /** Gives places of locked gates back. */
    void free(Collection<GateKey> keys) {
        gates.free(keys);
    }

    /** Puts right how many places of a locked gate are taken. */
    public void count(Gate gate, int used) {
        gates.set(gate.key(), used);
    }

    private boolean isPaused(JobRow row) {
        return row.pause().turnsAt().isPresent() ? row.pause().pausedAt(instance.trusted(tx.now())) : row.paused();
    }

    /** Lets whoever may go do so; returns how many. */
    public int letGo() {
        List<WaitingRun> going = new ArrayList<>();
        for (WaitingRun held : candidates) {
            JobRow row = Objects.requireNonNull(jobs.get(held.job()), "its job is not locked");
            if (row.waiting() > 0 && !isPaused(row) && row.used() < row.cap() && gates.open(held.gates())) {
                gates.take(held.gates());
                jobs.put(row.id(), row.counted(row.used() + 1, row.waiting() - 1));
                going.add(held);
            }
        }
        if (!going.isEmpty()) {
            tx.letGo(going.stream().map(WaitingRun::run).toList(), tx.now());
        }
        List<Long> queued = going.stream()
                .filter(held -> !held.gates().isEmpty())
                .map(WaitingRun::run)
                .toList();
        if (!queued.isEmpty()) {
            tx.gates().unqueue(queued);
        }
        return going.size();
    }

    /** Notes that whoever waits at gates was looked at. */
    void looked(Collection<GateKey> keys, boolean again) {
        gates.looked(keys, again);
    }

    /** Writes the gates; returns the jobs as they stand now. */
    public Map<Long, JobRow> write() {
        GateLocks.write(tx, gates);
        return jobs;
    }
}
