package dev.brume.internal.run;

import dev.brume.GuardedWork;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.OwnTransaction;
import dev.brume.Work;
import dev.brume.history.JobView;
import dev.brume.history.LastEnd;
import dev.brume.history.RunView;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.duty.Printing;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.ProgressNote;
import dev.brume.spi.RunEnd;
import dev.brume.spi.Traces;
import java.util.Optional;
import java.util.function.Supplier;

/** The questions that running work may put to its instance. Safe for use by many threads. */
public final class RunContext {
    private final Instance instance;
    private final GuardedCommit guarded;

    /** Creates the context of an instance's runs. */
    public RunContext(Instance instance) {
        this.instance = instance;
        this.guarded = new GuardedCommit(instance);
    }

    /** {@return how the run of a job ended that ended last} */
    public Optional<LastEnd> lastEnd(JobName job) {
        return instance.store().history().job(job).flatMap(JobView::lastEnd);
    }

    /** {@return the run that a run follows; empty if it follows none, or that one's line is gone} */
    public Optional<RunView> parent(LeasedRun run) {
        return run.row()
                .owed()
                .parent()
                .flatMap(id -> instance.store().history().run(id));
    }

    /** {@return what carries traces along} */
    public Traces traces() {
        return instance.traces();
    }

    /** {@return whether the instance is one that carries out such work, whoever leased it the run} */
    public boolean takes(Work work) {
        return work instanceof Work.Registered || instance.handlers().contains(work.needs());
    }

    /** {@return whether a success of a job is noted for those who are told} */
    public boolean isNotable(Job job) {
        return instance.isNotable(job);
    }

    /** {@return what the attempts that run here print} */
    public Printing printing() {
        return instance.printing();
    }

    /** Notes how far a run is; written soon, unless something newer is noted before. */
    public void progress(LeasedRun run, int percent, String message) {
        instance.note(run, new ProgressNote(run.row().leaseKey(), percent, message));
    }

    /**
     * Ends a run in one transaction with what its work writes.
     *
     * @param end is asked for the end when the work has written
     * @throws dev.brume.LeaseLostException if the lease no longer holds; nothing was written
     * @throws dev.brume.OutcomeUnknownException if nobody can tell whether it was written
     * @throws dev.brume.StoreException if the store failed; nothing was written
     * @throws Exception whatever the work throws; nothing was written
     */
    public void commit(LeasedRun run, GuardedWork work, Supplier<RunEnd> end) throws Exception {
        guarded.commit(run, (lease, most) -> instance.store().guarded(lease, most, work, end));
    }

    /** The same, in a transaction of the application's own kind. */
    public void commit(LeasedRun run, OwnTransaction transaction, GuardedWork work, Supplier<RunEnd> end)
            throws Exception {
        guarded.commit(run, (lease, most) -> instance.store().guarded(lease, most, transaction, work, end));
    }
}
