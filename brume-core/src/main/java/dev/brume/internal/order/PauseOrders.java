package dev.brume.internal.order;

import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.NotThereException;
import dev.brume.PauseChange;
import dev.brume.history.Change;
import dev.brume.history.JobRow;
import dev.brume.history.Pause;
import dev.brume.history.VersionKey;
import dev.brume.internal.decide.Gates;
import dev.brume.internal.decide.Plan;
import dev.brume.internal.decide.PlanDecider;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.plan.PlanWriter;
import dev.brume.internal.run.GateLocks;
import dev.brume.internal.run.Waiters;
import dev.brume.spi.Transaction;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Takes the orders to pause jobs and to resume them.
 *
 * <p>A paused job owes nothing: what its schedules name meanwhile is decided when it goes on, as its policy for missed
 * occurrences says, and what is not made up for is one span that says so. Its one-offs wait. Runs that there are already go
 * on. Many jobs are taken some at a time; whoever is cut off gives the order again.
 */
public final class PauseOrders {
    private static final int BATCH = 500;

    private final Instance instance;
    private final Waiters waiters;
    private final Orderer orderer;

    /**
     * Creates the step.
     *
     * @param who gives the orders
     * @param because why, empty if nobody says
     */
    public PauseOrders(Instance instance, String who, String because) {
        this.instance = instance;
        this.waiters = new Waiters(instance);
        this.orderer = Orderer.at(instance, who, because);
    }

    private Change change(String kind, Pause.Scope scope) {
        return orderer.change(kind, Optional.empty(), scope.toString());
    }

    /**
     * Pauses jobs.
     *
     * @throws IllegalArgumentException if the one job meant is not there
     */
    public PauseChange pause(Pause.Scope scope) {
        boolean ordered = instance.transact(tx -> {
            tx.lockDefinitions();
            check(tx, scope);
            boolean added = tx.orders().addPause(new Pause(scope, tx.now(), orderer.who(), orderer.because()));
            if (added) {
                tx.addChanges(List.of(change("PAUSED", scope)));
            }
            return added;
        });
        return new PauseChange(ordered, eachBatch(scope, /* pausing= */ true));
    }

    /**
     * Resumes jobs that no other pause covers.
     *
     * @throws IllegalArgumentException if the one job meant is not there
     */
    public PauseChange resume(Pause.Scope scope) {
        boolean ordered = instance.transact(tx -> {
            tx.lockDefinitions();
            check(tx, scope);
            boolean removed = tx.orders().removePause(scope);
            if (removed) {
                tx.addChanges(List.of(change("RESUMED", scope)));
            }
            return removed;
        });
        int jobs = eachBatch(scope, /* pausing= */ false);
        if (jobs > 0) {
            instance.call();
        }
        return new PauseChange(ordered, jobs);
    }

    private static void check(Transaction tx, Pause.Scope scope) {
        if (scope.kind() == Pause.Kind.JOB) {
            JobName key = JobName.parse(scope.name());
            if (!tx.findJobs(List.of(key)).containsKey(key)) {
                throw NotThereException.ofJob(key, "");
            }
        }
    }

    /** {@return whether any of the pauses covers a job} */
    public static boolean covers(List<Pause> pauses, Job job) {
        return pauses.stream().anyMatch(pause -> pause.scope().covers(job.name(), job.tags()));
    }

    private record Batch(int seen, long last, List<Long> changed, Optional<PlanWriter> writer) {}

    private int eachBatch(Pause.Scope scope, boolean pausing) {
        long after = 0;
        int all = 0;
        while (true) {
            long from = after;
            Batch batch = instance.transact(tx -> batch(tx, lock(tx, scope, from), pausing));
            batch.writer.ifPresent(PlanWriter::committed);
            waiters.committed();
            all += batch.changed.size();
            if (batch.seen < BATCH) {
                return all;
            }
            after = batch.last;
        }
    }

    /** One job is found by its key; which carry a tag, only their definitions tell. */
    private static List<JobRow> lock(Transaction tx, Pause.Scope scope, long after) {
        return scope.kind() == Pause.Kind.JOB
                ? List.copyOf(tx.lockJobs(List.of(JobName.parse(scope.name()))).values())
                : tx.lockJobsAfter(after, BATCH);
    }

    private Batch batch(Transaction tx, List<JobRow> rows, boolean pausing) {
        if (rows.isEmpty()) {
            return new Batch(0, 0, List.of(), Optional.empty());
        }
        List<Pause> pauses = tx.orders().pauses();
        Map<VersionKey, Job> jobs =
                tx.definitions(rows.stream().map(JobRow::versionKey).toList());
        Map<JobRow, Job> changing = new LinkedHashMap<>();
        for (JobRow row : rows) {
            Job job = jobs.get(row.versionKey());
            if (job == null) {
                instance.tellUnreadable(row.name().toString());
            } else if (row.paused() != pausing && covers(pauses, job) == pausing) {
                changing.put(row, job);
            }
        }
        List<Long> ids = changing.keySet().stream().map(JobRow::id).toList();
        long last = rows.get(rows.size() - 1).id();
        if (changing.isEmpty()) {
            return new Batch(rows.size(), last, ids, Optional.empty());
        }
        Gates gates = GateLocks.of(tx, changing.values());
        Instant now = instance.trusted(tx.now());
        PlanWriter writer = PlanWriter.leasingNothing(instance, tx, gates, now);
        changing.forEach((row, job) -> {
            Plan plan = pausing
                    ? PlanDecider.decideAll(job, row, now, gates)
                    : PlanDecider.decideAfterPause(job, row.paused(false), now, gates);
            writer.add(row.paused(pausing), job, plan);
        });
        tx.orders().setPaused(ids, pausing);
        writer.write();
        if (!pausing) {
            waiters.lookAt(tx, ids);
        }
        return new Batch(rows.size(), last, ids, Optional.of(writer));
    }
}
