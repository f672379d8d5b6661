package dev.brume.internal.plan;

import dev.brume.Job;
import dev.brume.history.JobRow;
import dev.brume.history.Pause;
import dev.brume.history.PauseMark;
import dev.brume.internal.decide.Gates;
import dev.brume.internal.decide.Plan;
import dev.brume.internal.decide.PlanDecider;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.run.Waiters;
import dev.brume.spi.Transaction;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/**
 * Carries jobs over the turns of their pauses, within one transaction.
 *
 * <p>A turn is made under the job's lock by whoever decides about the job first after it: what was owed before is decided as
 * it stood then, however late that is, so that a pause holds to the instant although nobody waits for it.
 */
public final class PauseTurns {
    private final Instance instance;
    private final Transaction tx;
    private final Instant now;
    private final Waiters waiters;
    private final Map<Long, PauseMark> marks = new TreeMap<>();
    private final List<Long> goingOn = new ArrayList<>();
    private final List<PlanWriter> written = new ArrayList<>();
    private @Nullable List<Pause> pauses;

    /**
     * Begins.
     *
     * @param now the database's clock
     */
    public PauseTurns(Instance instance, Transaction tx, Instant now) {
        this.instance = instance;
        this.tx = tx;
        this.now = now;
        this.waiters = new Waiters(instance);
    }

    /** {@return what is owed by a job up to now, or up to the turn that is due} What is decided is to be written after the turns are. */
    Plan decide(Job job, JobRow row, Gates gates) {
        if (!row.pause().turns(now)) {
            return PlanDecider.decide(job, row, now, gates);
        }
        Instant turn = row.pause().turnsAt().orElseThrow();
        PauseMark mark = PauseMark.of(Pause.covering(pauses(), job), turn);
        Plan plan = PlanDecider.decideUntilTurn(job, row, now, last(job, row.pause(), turn, mark), gates);
        marks.put(row.id(), mark);
        if (!mark.paused()) {
            goingOn.add(row.id());
        }
        return plan;
    }

    /**
     * Up to when to decide in one go: up to the turn, but where a pause has just ended, what is due by now is decided together with what
     * is made up for, so that the one does not take the place of the other.
     */
    private Instant last(Job job, PauseMark before, Instant turn, PauseMark after) {
        boolean together = before.state() == PauseMark.State.PAUSED
                && !after.turns(now)
                && now.isBefore(turn.plus(job.ifMissed().tolerance()));
        return together ? now : turn.minus(1, ChronoUnit.MICROS);
    }

    /** Makes the turns of a job that are due, for orders that go by how it stands now; returns its row as it stands then. */
    public JobRow upToNow(JobRow row, Job job, Gates gates) {
        JobRow at = row;
        while (at.pause().turns(now)) {
            PlanWriter writer = PlanWriter.leasingNothing(instance, tx, gates, now);
            writer.add(at, job, decide(job, at, gates));
            write();
            writer.write();
            written.add(writer);
            at = Objects.requireNonNull(tx.lockJobsById(List.of(row.id())).get(row.id()), row::toString);
        }
        return at;
    }

    private List<Pause> pauses() {
        if (pauses == null) {
            pauses = tx.orders().pauses();
        }
        return pauses;
    }

    /** Writes how the jobs stand; to be called before the plans are written. */
    void write() {
        if (!marks.isEmpty()) {
            tx.orders().mark(marks);
            waiters.lookAt(tx, goingOn);
        }
        marks.clear();
    }

    /** Tells what was decided and lets waiting runs go; to be called when the transaction has committed. */
    public void committed() {
        written.forEach(PlanWriter::committed);
        waiters.committed();
    }
}
