package dev.brume.internal.define;

import dev.brume.BrumeException;
import dev.brume.Event;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.NotThereException;
import dev.brume.history.Change;
import dev.brume.history.JobRow;
import dev.brume.history.VersionKey;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.order.Edit;
import dev.brume.spi.Transaction;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Gives jobs other names.
 *
 * <p>A job is known by its id, so its history, its waiting runs and its one-offs stay with it. The new name holds from a new version of its
 * definition on, so that no instance goes on with the old one; jobs that it follows get a version that names it anew.
 */
public final class Renaming {
    private final Instance instance;
    private final Edit edit;

    public Renaming(Instance instance, Edit edit) {
        this.instance = instance;
        this.edit = edit;
    }

    /**
     * Renames a job; returns the jobs that it follows.
     *
     * @throws NotThereException if it is not there
     * @throws IllegalArgumentException if the other name is taken, or of another namespace
     */
    public List<JobName> rename(JobName from, JobName to) {
        if (!from.namespace().equals(to.namespace())) {
            throw new IllegalArgumentException("job " + from + " cannot become " + to
                    + ": a job stays in its namespace, whose limits, keys and calendars it goes by");
        }
        DefinitionWriter[] written = new DefinitionWriter[1];
        List<JobName> followed = instance.transact(tx -> {
            tx.lockDefinitions();
            List<JobName> before = tx.followedBy(from);
            written[0] = write(tx, from, to, before);
            return before;
        });
        written[0].committed();
        instance.tell(Event.Kind.DEFINED, to, "renamed, so far " + from);
        return followed;
    }

    private DefinitionWriter write(Transaction tx, JobName from, JobName to, List<JobName> followed) {
        if (!tx.findJobs(List.of(to)).isEmpty()) {
            throw new IllegalArgumentException(
                    "there is a job " + to + " already; drop it first, or choose another name");
        }
        List<JobName> keys = new ArrayList<>(followed);
        keys.add(from);
        Map<JobName, JobRow> rows = tx.lockJobs(keys);
        JobRow row = rows.get(from);
        if (row == null) {
            throw NotThereException.ofJob(from, "");
        }
        Map<VersionKey, Job> jobs =
                tx.definitions(rows.values().stream().map(JobRow::versionKey).toList());
        DefinitionWriter writing = new DefinitionWriter(
                instance, tx, edit, CalendarsInForce.of(tx, jobs.values()), jobs, /* revised= */ true);
        for (JobRow each : rows.values()) {
            Job job = jobs.get(each.versionKey());
            if (job == null) {
                throw new BrumeException(each.name() + " goes by a definition that a newer version of Brume wrote;"
                        + " rename " + from + " with that version");
            }
            writing.change(each, job.afterRenaming(from, to), each.source());
        }
        tx.rename(row.id(), from, to);
        writing.write();
        tx.addChanges(List.of(new Change(
                "RENAMED",
                edit.who(),
                edit.host(),
                Optional.of(to),
                Optional.empty(),
                Optional.empty(),
                "so far " + from,
                edit.because())));
        return writing;
    }
}
