package dev.brume.duties;

import dev.brume.Defined;
import dev.brume.Event;
import dev.brume.Job;
import dev.brume.JobKey;
import dev.brume.decide.PlanDecider;
import dev.brume.port.Change;
import dev.brume.port.JobRow;
import dev.brume.port.NewJob;
import dev.brume.port.Redefinition;
import dev.brume.port.Transaction;
import dev.brume.port.VersionKey;
import dev.brume.schedule.Occurrence;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Puts definitions in force.
 *
 * <p>A changed definition first settles what the old one owed up to now; the new one holds from that
 * instant on, inclusive. What did not change is found out without locking or writing anything.
 */
public final class Registrar {
    private static final int BATCH = 1000;

    private final Instance instance;

    /** Creates the registrar. */
    public Registrar(Instance instance) {
        this.instance = instance;
    }

    /**
     * Defines jobs.
     *
     * @param source where they come from, such as a file's name
     * @param who orders it
     */
    public List<Defined> define(Collection<Job> jobs, String source, String who) {
        List<Defined> results = new ArrayList<>();
        List<Job> all = List.copyOf(jobs);
        for (int from = 0; from < all.size(); from += BATCH) {
            List<Job> batch = all.subList(from, Math.min(from + BATCH, all.size()));
            results.addAll(defineBatch(batch, source, who));
        }
        results.stream()
                .filter(result -> result.kind() != Defined.Kind.UNCHANGED)
                .forEach(result -> instance.tell(
                        Event.Kind.DEFINED, result.key(), result.kind() + ", version " + result.version()));
        return results;
    }

    private List<Defined> defineBatch(List<Job> jobs, String source, String who) {
        List<Defined> seen = instance.transact(tx -> {
            Map<JobKey, JobRow> rows = tx.findJobs(keys(jobs));
            return compare(tx, jobs, rows, source);
        });
        if (seen.stream().allMatch(result -> result.kind() == Defined.Kind.UNCHANGED)) {
            return seen;
        }
        Written written = instance.transact(tx -> write(tx, jobs, source, who));
        written.plans.committed();
        return written.results;
    }

    private static List<JobKey> keys(List<Job> jobs) {
        return jobs.stream().map(Job::key).toList();
    }

    private List<Defined> compare(Transaction tx, List<Job> jobs, Map<JobKey, JobRow> rows, String source) {
        Map<VersionKey, Job> known = instance.definitions()
                .get(tx, rows.values().stream().map(JobRow::versionKey).toList());
        List<Defined> results = new ArrayList<>();
        for (Job job : jobs) {
            JobRow row = rows.get(job.key());
            if (row == null) {
                results.add(new Defined(job.key(), Defined.Kind.NEW, 1));
            } else if (job.equals(known.get(row.versionKey())) && row.source().equals(source)) {
                results.add(new Defined(job.key(), Defined.Kind.UNCHANGED, row.version()));
            } else {
                results.add(new Defined(job.key(), Defined.Kind.CHANGED, row.version() + 1));
            }
        }
        return results;
    }

    private record Written(List<Defined> results, PlanWriter plans) {}

    private Written write(Transaction tx, List<Job> jobs, String source, String who) {
        tx.lockDefinitions();
        Map<JobKey, JobRow> rows = tx.lockJobs(keys(jobs));
        List<Defined> results = compare(tx, jobs, rows, source);
        Instant now = tx.now();
        Instant decided = now.minus(1, ChronoUnit.MICROS);
        PlanWriter settled = new PlanWriter(
                instance,
                tx,
                new Leasing(instance, Optional.empty()),
                now,
                instance.time().nanos());
        List<NewJob> added = new ArrayList<>();
        List<Redefinition> changed = new ArrayList<>();
        List<Change> changes = new ArrayList<>();
        for (int i = 0; i < jobs.size(); i++) {
            Job job = jobs.get(i);
            Defined result = results.get(i);
            JobRow row = rows.get(job.key());
            Optional<Instant> nextAt = job.next(decided).map(Occurrence::instant);
            if (result.kind() == Defined.Kind.NEW) {
                added.add(new NewJob(job, source, decided, nextAt));
                changes.add(change("DEFINED", job.key(), Optional.empty(), Optional.of(1), source, who));
            } else if (result.kind() == Defined.Kind.CHANGED) {
                settle(tx, settled, row, decided);
                changed.add(new Redefinition(row.id(), result.version(), job, source, decided, nextAt));
                changes.add(change(
                        "CHANGED", job.key(), Optional.of(row.version()), Optional.of(result.version()), source, who));
            }
        }
        settled.write();
        if (!added.isEmpty()) {
            tx.addJobs(added);
        }
        if (!changed.isEmpty()) {
            tx.redefine(changed);
        }
        tx.addChanges(changes);
        return new Written(results, settled);
    }

    private void settle(Transaction tx, PlanWriter settled, JobRow row, Instant decided) {
        Job old = instance.definitions().get(tx, List.of(row.versionKey())).get(row.versionKey());
        settled.add(row, old, PlanDecider.decideAll(old, row, decided));
    }

    /**
     * Drops a job: it owes nothing from now on, its name becomes free, its history stays.
     *
     * @return whether there was such a job
     */
    public boolean drop(JobKey key, String who) {
        PlanWriter[] written = new PlanWriter[1];
        boolean dropped = instance.transact(tx -> {
            tx.lockDefinitions();
            JobRow row = tx.lockJobs(List.of(key)).get(key);
            if (row == null) {
                return false;
            }
            Instant now = tx.now();
            PlanWriter settled = new PlanWriter(
                    instance,
                    tx,
                    new Leasing(instance, Optional.empty()),
                    now,
                    instance.time().nanos());
            settle(tx, settled, row, now);
            settled.write();
            tx.drop(row.id());
            tx.addChanges(
                    List.of(change("DROPPED", key, Optional.of(row.version()), Optional.empty(), row.source(), who)));
            written[0] = settled;
            return true;
        });
        if (dropped) {
            written[0].committed();
        }
        return dropped;
    }

    private Change change(
            String kind, JobKey key, Optional<Integer> before, Optional<Integer> after, String source, String who) {
        return new Change(kind, who, instance.settings().host(), Optional.of(key), before, after, source);
    }
}
