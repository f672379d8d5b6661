package dev.brume.internal.order;

import dev.brume.BrumeException;
import dev.brume.Cancelled;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Mask;
import dev.brume.NotThereException;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.StopReason;
import dev.brume.history.AfterEnd;
import dev.brume.history.Change;
import dev.brume.history.JobRow;
import dev.brume.history.RunRow;
import dev.brume.history.RunView;
import dev.brume.internal.decide.Gates;
import dev.brume.internal.decide.Plan;
import dev.brume.internal.decide.Plan.Decision;
import dev.brume.internal.decide.Plan.Verdict;
import dev.brume.internal.decide.PlanDecider;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.order.OnceOnly.Form;
import dev.brume.internal.plan.OneOffDuty;
import dev.brume.internal.plan.PauseTurns;
import dev.brume.internal.plan.PlanWriter;
import dev.brume.internal.run.Calls;
import dev.brume.internal.run.GateLocks;
import dev.brume.internal.run.Settling;
import dev.brume.internal.run.StopDuty;
import dev.brume.internal.text.Payloads;
import dev.brume.schedule.Note;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.OnceSchedule;
import dev.brume.schedule.Timeline;
import dev.brume.schedule.Zones;
import dev.brume.spi.JobAdvance;
import dev.brume.spi.Transaction;
import java.time.Instant;
import java.time.ZoneId;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;

/** Takes the orders that people give about jobs and runs; each is in the change log, with who and why, in its transaction. */
public final class HandOrders {
    /** How many runs one backfill makes at most. */
    public static final int MOST_BACKFILLED = 1000;

    private static final ZoneId UTC = Zones.parse("UTC");

    private final Instance instance;
    private final Settling settling;
    private final Orderer orderer;
    private final OnceOnly once;

    /** Creates the step for someone who gives orders. */
    public HandOrders(Instance instance, Orderer orderer) {
        this(instance, orderer, OnceOnly.not(orderer));
    }

    /** Creates the step for someone who gives orders, each of them once if they say so. */
    public HandOrders(Instance instance, Orderer orderer, OnceOnly once) {
        this.instance = instance;
        this.settling = new Settling(instance);
        this.orderer = orderer;
        this.once = once;
    }

    private Change change(String kind, JobName job, String text) {
        return orderer.change(kind, Optional.of(job), text);
    }

    /** A job under its lock, with its definition and gates. */
    private record Locked(JobRow row, Job job, Gates gates, Instant now) {
        Locked with(JobRow standing) {
            return new Locked(standing, job, gates, now);
        }
    }

    private Locked lock(Transaction tx, JobName key) {
        JobRow row = tx.lockJobs(List.of(key)).get(key);
        if (row == null) {
            throw NotThereException.ofJob(key, "");
        }
        Job job = tx.definitions(List.of(row.versionKey())).get(row.versionKey());
        if (job == null) {
            throw new BrumeException(key
                    + " goes by a definition that a newer version of Brume wrote; give the order with that version");
        }
        return new Locked(row, job, GateLocks.of(tx, List.of(job)), instance.trusted(tx.now()));
    }

    private PlanWriter writer(Transaction tx, Locked locked) {
        return PlanWriter.leasingNothing(instance, tx, locked.gates, locked.now);
    }

    /** What an order came to, and what is to be done once it is committed. */
    private record Written<T>(T result, Runnable committed) {}

    private <T> Written<T> written(PlanWriter writer, Job job, T result) {
        return new Written<>(result, () -> {
            writer.committed();
            Calls.run(instance, job);
        });
    }

    private <T> T committed(Form<T> form, Function<Transaction, Written<T>> steps) {
        Written<T> written = instance.transact(tx -> {
            Optional<T> before = once.before(tx, form);
            if (before.isPresent()) {
                return new Written<>(before.get(), () -> {});
            }
            Written<T> fresh = steps.apply(tx);
            once.done(tx, form, fresh.result);
            return fresh;
        });
        written.committed.run();
        return written.result;
    }

    // Runs.

    /**
     * Orders a run now. It waits where the job, or a gate of it, has no place; a pause does not concern it.
     *
     * @param payload what it is given, the job's own if empty
     * @return the run's id
     * @throws IllegalArgumentException if the payload is too long
     */
    public long runNow(JobName key, Optional<String> payload) {
        payload.ifPresent(Payloads::checked);
        return committed(Form.ofRun("run-now", key.namespace(), key, payload), tx -> {
            Locked locked = lock(tx, key);
            AllowanceRules.checkPayload(tx, key, payload);
            ZoneId zone = locked.job.schedules().isEmpty()
                    ? UTC
                    : locked.job.schedules().get(0).zone();
            Occurrence now = OnceSchedule.at(locked.now, zone).occurrence().orElseThrow();
            Written<Long> run = order(tx, locked, now, Origin.BY_HAND, payload);
            tx.addChanges(List.of(change("RUN_ORDERED", key, "run " + run.result)));
            return run;
        });
    }

    private Written<Long> order(Transaction tx, Locked locked, Occurrence at, Origin origin, Optional<String> payload) {
        PlanWriter writer = writer(tx, locked);
        Verdict verdict = PlanDecider.admitByHand(locked.job, locked.row, locked.gates);
        writer.addByHand(
                locked.row,
                locked.job,
                new PlanWriter.ByHand(orderer.who(), payload, /* backfill= */ false),
                new Decision(at, verdict, Optional.empty(), origin));
        writer.advance(JobAdvance.of(OneOffDuty.counted(locked.row, verdict)));
        writer.write();
        return written(writer, locked.job, writer.ids().get(0));
    }

    /**
     * Orders that what an ended run was owed to is run once more, with its payload, under the definition in force.
     *
     * @return the new run's id
     * @throws IllegalArgumentException if there is no such run, it has not ended, or its job is gone
     */
    public long rerun(long run) {
        return rerun(run, /* once= */ false);
    }

    /**
     * Orders the same, unless it was ordered before.
     *
     * @throws IllegalArgumentException if it was, too
     */
    public long rerunOnce(long run) {
        return rerun(run, /* once= */ true);
    }

    private long rerun(long run, boolean once) {
        RunView earlier = instance.store().history().run(run).orElseThrow(() -> NotThereException.ofRun(run, ""));
        if (earlier.outcome().isEmpty()) {
            throw new IllegalArgumentException("run " + run + " has not ended yet; it is "
                    + earlier.state().map(Enum::name).orElse("live"));
        }
        RunRow.Owed owed = earlier.owed();
        return committed(Form.ofRun("rerun", earlier.job().namespace(), run), tx -> {
            Locked locked = lock(tx, earlier.job());
            if (locked.row.id() != owed.job()) {
                throw new IllegalArgumentException(
                        "the job of run " + run + " was dropped; the '" + earlier.job() + "' of today is another");
            }
            if (once && !tx.retention().rerunsOf(run).isEmpty()) {
                throw new IllegalArgumentException("it was rerun before");
            }
            Occurrence same = new Occurrence(owed.planned(), owed.nominal(), Zones.parse(owed.zone()), Set.of());
            Written<Long> rerun = order(tx, locked, same, Origin.RERUN, payloadOf(earlier, locked.job));
            tx.addChanges(List.of(
                    change("RERUN_ORDERED", earlier.job(), "run " + rerun.result + ", which reruns run " + run)));
            return rerun;
        });
    }

    /** Whether what a run was owed to was run once more already, or is being. */
    public boolean wasRerun(long run) {
        return !instance.transact(tx -> tx.retention().rerunsOf(run)).isEmpty();
    }

    /** A payload that is masked on record cannot be given to a rerun, unless it was the job's own. */
    private static Optional<String> payloadOf(RunView earlier, Job job) {
        Mask mask = Mask.of(job);
        if (mask.isEmpty() || earlier.payload().isEmpty()) {
            return earlier.payload();
        }
        if (job.payload().map(mask::apply).equals(earlier.payload())) {
            return Optional.empty();
        }
        if (earlier.payload().get().contains(Mask.STANDS_FOR)) {
            throw new IllegalArgumentException("the record of run " + earlier.id()
                    + " has the secrets in its payload masked, so it cannot be given again; run the job now with a"
                    + " payload of its own instead");
        }
        return earlier.payload();
    }

    /**
     * Finds what a backfill of a period would run: what the schedule owed, by the definition in force, and no run was made of.
     *
     * @param from inclusive
     * @param until exclusive
     * @throws IllegalArgumentException if the period is empty, not over yet, or holds too many
     */
    public List<Occurrence> missing(JobName key, Instant from, Instant until) {
        return instance.transact(tx -> missing(tx, lock(tx, key), from, until));
    }

    private static List<Occurrence> missing(Transaction tx, Locked locked, Instant from, Instant until) {
        if (!from.isBefore(until)) {
            throw new IllegalArgumentException("the period from " + from + " until " + until + " is empty");
        }
        if (until.isAfter(locked.row.cursor().plus(1, ChronoUnit.MICROS)) && until.isAfter(locked.now)) {
            throw new IllegalArgumentException("the period ends at " + until + ", which is still to come (now is "
                    + locked.now + "); the schedule itself will see to it");
        }
        Instant kept = tx.retention().keptFrom(locked.row.id());
        if (from.isBefore(kept)) {
            throw new IllegalArgumentException("the period begins at " + from + ", and before " + kept
                    + " the ledger no longer knows what ran; begin at " + kept);
        }
        Set<Instant> have = tx.orders().havingRuns(locked.row.id(), from, until);
        Timeline owed = locked.job.timeline();
        List<Occurrence> missing = new ArrayList<>();
        Optional<Occurrence> next = owed.next(from.minusNanos(1));
        while (next.isPresent() && next.get().instant().isBefore(until)) {
            if (!have.contains(next.get().instant())) {
                missing.add(next.get());
            }
            if (missing.size() > MOST_BACKFILLED) {
                throw new IllegalArgumentException("the period holds more than " + MOST_BACKFILLED
                        + " occurrences without a run; make it shorter");
            }
            next = owed.next(next.get().instant());
        }
        return missing;
    }

    /**
     * Orders runs for all that {@link #missing} finds, in their order; they pass the job's gates like any others.
     *
     * @return the runs' ids
     */
    public List<Long> backfill(JobName key, Instant from, Instant until) {
        Form<List<Long>> form = new Form<>(
                "backfill",
                key.namespace(),
                Form.texts(key, from, until),
                OnceOnlyTexts::ofRuns,
                OnceOnlyTexts::runs,
                runs -> runs.stream().reduce((earlier, later) -> later));
        return committed(form, tx -> {
            Locked locked = lock(tx, key);
            List<Occurrence> missing = missing(tx, locked, from, until);
            PlanWriter writer = writer(tx, locked);
            JobRow row = locked.row;
            for (Occurrence each : missing) {
                Verdict verdict = PlanDecider.admitByHand(locked.job, row, locked.gates);
                writer.addByHand(
                        row,
                        locked.job,
                        new PlanWriter.ByHand(orderer.who(), Optional.empty(), /* backfill= */ true),
                        new Decision(each, verdict, Optional.empty(), Origin.BACKFILL));
                row = OneOffDuty.counted(row, verdict);
            }
            writer.advance(JobAdvance.of(row));
            writer.write();
            tx.addChanges(List.of(change(
                    "BACKFILL_ORDERED",
                    key,
                    missing.size() + " runs for what was owed from " + from + " until " + until)));
            return written(writer, locked.job, writer.ids());
        });
    }

    /** Orders that a run be cancelled. */
    public Cancelled cancel(long run) {
        Optional<RunView> seen = instance.store().history().run(run);
        if (seen.isEmpty()) {
            return Cancelled.NO_SUCH_RUN;
        }
        JobName job = seen.get().job();
        Form<Cancelled> form = Form.of("cancel", job.namespace(), Cancelled::name, Cancelled::valueOf, run);
        return committed(form, tx -> {
            Optional<RunRow> live = tx.orders().find(run);
            if (live.isEmpty()) {
                return new Written<>(Cancelled.ALREADY_ENDED, () -> {});
            }
            boolean ended = tx.orders().endWaiting(run, Outcome.CANCELLED, Reason.BY_HAND);
            if (!ended) {
                tx.orders().askToStop(List.of(run), StopReason.CANCELLED);
            }
            tx.addChanges(List.of(change("CANCEL_ORDERED", job, "run " + run)));
            return new Written<>(ended ? Cancelled.ENDED : Cancelled.ASKED, () -> {
                if (ended) {
                    settling.settle(List.of(run));
                    StopDuty.tellEnded(instance, seen.get(), Reason.BY_HAND);
                }
                instance.call();
            });
        });
    }

    // Schedules.

    /**
     * Orders that the next occurrence be left out; what is due up to now is decided first.
     *
     * @return which; empty if none is to come
     */
    public Optional<Occurrence> skipNext(JobName key) {
        Form<Optional<Occurrence>> form =
                Form.of("skip-next", key.namespace(), OnceOnlyTexts::ofOccurrence, OnceOnlyTexts::occurrence, key);
        return committed(form, tx -> {
            Locked found = lock(tx, key);
            PauseTurns turns = new PauseTurns(instance, tx, found.now);
            Locked locked = found.with(turns.upToNow(found.row, found.job, found.gates));
            PlanWriter writer = writer(tx, locked);
            Plan settled = PlanDecider.decideAll(locked.job, locked.row, locked.now, locked.gates);
            Optional<Occurrence> next = locked.job.timeline().next(settled.cursor());
            if (next.isEmpty()) {
                writer.add(locked.row, locked.job, settled);
                writer.write();
                return after(turns, written(writer, locked.job, next));
            }
            Instant skipped = next.get().instant();
            writer.add(locked.row, locked.job, settled.skipping(skipped, nextAfter(locked, settled, skipped)));
            writer.addSkipped(
                    locked.row,
                    locked.job,
                    new Decision(next.get(), Verdict.SKIP, Optional.of(Reason.BY_HAND), Origin.SCHEDULE));
            writer.write();
            tx.addChanges(List.of(change("NEXT_SKIPPED", key, "the occurrence of " + skipped + notes(next.get()))));
            return after(turns, written(writer, locked.job, next));
        });
    }

    private static <T> Written<T> after(PauseTurns turns, Written<T> written) {
        return new Written<>(written.result, () -> {
            turns.committed();
            written.committed.run();
        });
    }

    /** A schedule that goes by the ends of runs keeps its next occurrence, wherever it lies. */
    private static Optional<Instant> nextAfter(Locked locked, Plan settled, Instant skipped) {
        Optional<Instant> byRule = locked.job.next(skipped).map(Occurrence::instant);
        Optional<Instant> before = settled.nextAt().filter(at -> !at.equals(skipped));
        Optional<Instant> byEnd = locked.row.afterEnd().flatMap(AfterEnd::due).filter(due -> due.isAfter(locked.now));
        return PlanDecider.earlier(byRule, PlanDecider.earlier(before, byEnd));
    }

    private static String notes(Occurrence occurrence) {
        return occurrence.notes().isEmpty()
                ? ""
                : " ("
                        + String.join(
                                ", ",
                                occurrence.notes().stream().map(Note::name).toList()) + ")";
    }
}
