package dev.brume.internal.retention;

import dev.brume.Event;
import dev.brume.GateKey;
import dev.brume.StoreException;
import dev.brume.history.Gate;
import dev.brume.history.JobRow;
import dev.brume.internal.duty.Duty;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.order.Orderer;
import dev.brume.internal.run.Releases;
import dev.brume.spi.JobAdvance;
import dev.brume.spi.Transaction;
import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Puts right what should never be wrong, seals, and forgets what is old. It may take long, and nobody waits for it: an instance
 * does not owe it its lease.
 */
public final class SweepDuty implements Duty {
    private static final Duration EVERY = Duration.ofMinutes(10);
    private static final int POLLS = 60;
    private static final Duration SESSIONS_KEPT = Duration.ofDays(7);
    private static final Duration FEED_KEPT = Duration.ofHours(1);
    private static final Duration REQUESTS_KEPT = Duration.ofDays(1);
    private static final Duration MONTHS_AHEAD = Duration.ofDays(92);
    private static final int BATCH = 100;

    private final Instance instance;
    private long next;
    private boolean mayNotRemove;
    private long removalAsked;

    /** Creates the duty, to be done for the first time after a while. */
    public SweepDuty(Instance instance) {
        this.instance = instance;
        this.next = instance.time().nanos() + pause().toNanos();
    }

    /** An instance that seldom looks for work seldom sweeps. */
    private Duration pause() {
        Duration polls = instance.settings().poll().multipliedBy(POLLS);
        return polls.compareTo(EVERY) > 0 ? polls : EVERY;
    }

    @Override
    public Duration step() {
        long left = next - instance.time().nanos();
        if (left > 0) {
            return Duration.ofNanos(left);
        }
        if (instance.draining() || instance.liveSession().isEmpty()) {
            return instance.settings().poll();
        }
        next = instance.time().nanos() + pause().toNanos();
        try {
            sweep();
        } catch (StoreException e) {
            instance.tellProblem("sweeping failed, will be done again later", e);
        }
        return pause();
    }

    public void sweep() {
        for (JobRow job : instance.transact(SweepDuty::repairJobs)) {
            instance.tell(
                    Event.Kind.PROBLEM,
                    job.name(),
                    "had live runs beside the newest that its row did not know of; that has been put right");
        }
        closeIdleKeys();
        Repair repair = instance.transact(this::repairGates);
        repair.wrong.forEach((gate, truth) -> instance.tell(
                Event.Kind.PROBLEM,
                "places of " + gate.key() + " were counted wrong and have been put right: " + gate.used()
                        + " taken on record, " + truth + " in truth"));
        if (repair.released > 0) {
            instance.tell(
                    Event.Kind.PROBLEM,
                    repair.released + " runs waited although there was room; they have been let go");
        }
        addMonths();
        new SealDuty(instance, instance.settings().instance()).stepIfBegun();
        removeOld();
        instance.transact(tx -> tx.sessions().forget(tx.now().minus(SESSIONS_KEPT)));
        instance.transact(tx -> tx.leases().forget(tx.now().minus(SESSIONS_KEPT)));
        forgetRequests();
        forgetFeed();
        sumUp();
    }

    /** Others may be reading just where a month is to be added; there is time. */
    private void addMonths() {
        try {
            instance.transact(tx -> tx.retention().addMonths(tx.now(), tx.now().plus(MONTHS_AHEAD)));
        } catch (StoreException e) {
            if (e.trouble() != StoreException.Trouble.CONFLICT) {
                throw e;
            }
            instance.tellProblem(
                    "the months to come were not given their places in the ledger, will be tried again", e);
        }
    }

    /** Last, and apart: a newer version may have begun to sum up in a form that this one cannot go on with. */
    private void sumUp() {
        try {
            new RollUpDuty(instance).step();
        } catch (StoreException e) {
            if (e.trouble() != StoreException.Trouble.SCHEMA) {
                throw e;
            }
            instance.tellProblem("the ledger was not summed up, tally and stats read lines instead", e);
        }
    }

    /** Keys of one-offs are there as long as a run has something to do with them. */
    private void closeIdleKeys() {
        int closed;
        do {
            closed = instance.transact(tx -> tx.gates().closeIdle(BATCH));
        } while (closed == BATCH);
    }

    private void forgetFeed() {
        int forgotten;
        do {
            forgotten = instance.transact(tx -> tx.feed().forget(tx.now().minus(FEED_KEPT), BATCH));
        } while (forgotten == BATCH);
    }

    private void forgetRequests() {
        int forgotten;
        do {
            forgotten = instance.transact(tx -> tx.requests().forget(tx.now().minus(REQUESTS_KEPT), BATCH));
        } while (forgotten == BATCH);
        instance.transact(tx -> tx.access().forgetSignIns(tx.now()));
    }

    /** The database may well allow it to another user only. */
    private void removeOld() {
        long now = instance.time().nanos();
        if (mayNotRemove && now - removalAsked < RetentionDuty.EVERY.toNanos()) {
            return;
        }
        try {
            new RetentionDuty(instance, Orderer.itself(instance)).stepIfTime();
            mayNotRemove = false;
        } catch (StoreException e) {
            if (e.trouble() != StoreException.Trouble.NOT_WRITABLE) {
                throw e;
            }
            mayNotRemove = true;
            removalAsked = now;
            instance.tell(
                    Event.Kind.PROBLEM,
                    "this instance's database user could not remove the lines beyond the ledger's bounds (let one who"
                            + " may run 'brume keep --apply'): " + e.getMessage());
        }
    }

    private static List<JobRow> repairJobs(Transaction tx) {
        List<JobRow> wrong = tx.crowdedUnawares(BATCH);
        if (!wrong.isEmpty()) {
            tx.advance(wrong.stream()
                    .map(row -> JobAdvance.of(row.with(row.runs().ended(Optional.empty(), /* isCrowded= */ true))))
                    .toList());
            tx.await(wrong.stream().map(JobRow::id).toList());
        }
        return wrong;
    }

    private record Repair(Map<Gate, Integer> wrong, int released) {}

    /** Counts the gates anew, and lets go whoever waits where there is room. */
    private Repair repairGates(Transaction tx) {
        List<GateKey> keys = tx.gates().all().stream().map(Gate::key).toList();
        Releases releases = Releases.lock(instance, tx, tx.jobsWithRoomAndWaiting(BATCH), keys);
        Map<Gate, Integer> wrong = new LinkedHashMap<>();
        if (!keys.isEmpty()) {
            Map<GateKey, Integer> counts = tx.gates().count(keys);
            tx.gates().all().stream()
                    .filter(gate -> gate.used() != counts.getOrDefault(gate.key(), 0))
                    .forEach(gate -> wrong.put(gate, counts.getOrDefault(gate.key(), 0)));
            wrong.forEach(releases::count);
        }
        int released = releases.letGo();
        releases.write();
        return new Repair(wrong, released);
    }
}
