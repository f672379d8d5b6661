package dev.brume.duties;

import dev.brume.Job;
import dev.brume.decide.Gates;
import dev.brume.decide.PlanDecider;
import dev.brume.port.JobRow;
import dev.brume.port.Transaction;
import dev.brume.port.VersionKey;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Decides about occurrences that are due: one transaction for a batch of jobs.
 *
 * <p>The batch is what the free workers can start: more would only wait in the table and cost a claim
 * each, where it could have been leased in the same go.
 */
final class PlanDuty {
    private static final int AT_LEAST = 50;
    private static final Duration PATIENCE = Duration.ofSeconds(10);

    private final Instance instance;

    PlanDuty(Instance instance) {
        this.instance = instance;
    }

    /**
     * Plans one batch; returns how many jobs it was.
     *
     * @param hint nothing earlier is expected to be due
     */
    int step(Optional<Instant> hint) {
        Optional<Instance.Session> session = instance.liveSession();
        if (session.isEmpty()) {
            return 0;
        }
        int limit = Math.min(instance.settings().batch(), new Leasing(instance, session).room());
        if (limit == 0 && hint.filter(this::isOverdue).isPresent()) {
            limit = AT_LEAST;
        }
        return limit > 0 ? plan(session.get(), hint, limit) : 0;
    }

    /** With no free worker here, work is left to instances that have one, but not for ever. */
    private boolean isOverdue(Instant due) {
        return due.plus(PATIENCE).isBefore(instance.now());
    }

    private int plan(Instance.Session session, Optional<Instant> hint, int limit) {
        Batch batch = instance.transact(tx -> plan(tx, session, hint, limit));
        batch.writer.ifPresent(PlanWriter::committed);
        return batch.jobs;
    }

    private record Batch(int jobs, Optional<PlanWriter> writer) {}

    private Batch plan(Transaction tx, Instance.Session session, Optional<Instant> hint, int limit) {
        List<JobRow> rows = tx.lockDueJobs(hint, instance.trustedLimit(), limit);
        if (rows.isEmpty()) {
            return new Batch(0, Optional.empty());
        }
        Map<VersionKey, Job> jobs = instance.definitions()
                .get(tx, rows.stream().map(JobRow::versionKey).toList());
        Gates gates = GateLocks.of(tx, jobs.values());
        if (jobs.values().stream().anyMatch(Job::onEachInstance)) {
            tx.sessions().holdOpen();
        }
        Optional<Instant> clock = tx.sessions().hold(session.lease());
        if (clock.isEmpty()) {
            return new Batch(0, Optional.empty());
        }
        Instant now = instance.trusted(clock.get());
        long nanos = instance.time().nanos();
        PlanWriter writer =
                new PlanWriter(instance, tx, new Leasing(instance, Optional.of(session)), gates, now, nanos);
        for (JobRow row : rows) {
            Job job = jobs.get(row.versionKey());
            if (job == null) {
                instance.tellUnreadable(row.key().toString());
            } else {
                writer.add(row, job, PlanDecider.decide(job, row, now, gates));
            }
        }
        writer.write();
        return new Batch(jobs.size(), Optional.of(writer));
    }
}
