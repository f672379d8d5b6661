package dev.brume.internal.plan;

import dev.brume.GateKey;
import dev.brume.Job;
import dev.brume.Origin;
import dev.brume.Reason;
import dev.brume.history.JobRow;
import dev.brume.history.VersionKey;
import dev.brume.internal.decide.Gates;
import dev.brume.internal.decide.Plan.Decision;
import dev.brume.internal.decide.Plan.Verdict;
import dev.brume.internal.decide.PlanDecider;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.run.GateLocks;
import dev.brume.internal.run.Leasing;
import dev.brume.internal.run.SetAside;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.OnceSchedule;
import dev.brume.schedule.Zones;
import dev.brume.spi.JobAdvance;
import dev.brume.spi.OneOffOrder;
import dev.brume.spi.Transaction;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Function;
import java.util.stream.Collectors;

/**
 * Makes runs of one-offs that are due. Each starts, or waits for its places: someone ordered it, so it is never skipped
 * for being late or for finding its job busy.
 */
public final class OneOffDuty {
    private static final ZoneId UTC = Zones.parse("UTC");

    private final Instance instance;
    private final SetAside<Long> aside = new SetAside<>();

    public OneOffDuty(Instance instance) {
        this.instance = instance;
    }

    /** Makes runs of a batch; returns how many one-offs it was. */
    public int step(Optional<Instant> hint) {
        Optional<Instance.Session> session = instance.liveSession();
        if (session.isEmpty()) {
            return 0;
        }
        List<OneOffOrder> seen = new ArrayList<>();
        try {
            int made = make(session.get(), tx -> due(tx, hint, seen));
            seen.forEach(row -> aside.worked(row.run()));
            return made;
        } catch (RuntimeException | StackOverflowError e) {
            if (!SetAside.isOfOne(e) || seen.isEmpty()) {
                throw e;
            }
            return oneByOne(session.get(), List.copyOf(seen));
        }
    }

    private int make(Instance.Session session, Function<Transaction, List<OneOffOrder>> which) {
        Batch batch = instance.transact(tx -> make(tx, session, which.apply(tx)));
        batch.writer.ifPresent(PlanWriter::committed);
        return batch.count;
    }

    /** Those that were set aside are passed over; as many more are read. */
    private List<OneOffOrder> due(Transaction tx, Optional<Instant> hint, List<OneOffOrder> seen) {
        Instant now = instance.trusted(tx.now());
        long nanos = instance.time().nanos();
        int limit = instance.settings().batch();
        List<OneOffOrder> due = tx.oneOffs().due(hint, now, limit + aside.size()).stream()
                .filter(row -> !aside.waits(row.run(), nanos))
                .limit(limit)
                .toList();
        seen.clear();
        seen.addAll(due);
        return due;
    }

    private int oneByOne(Instance.Session session, List<OneOffOrder> due) {
        return aside.oneByOne(
                due,
                OneOffOrder::run,
                instance.time()::nanos,
                one -> make(session, tx -> List.of(one)),
                (one, verdict) -> instance.tellProblem("one-off '" + one.key() + "' of job " + one.job()
                        + " cannot be made a run and is set aside, the others go on: " + verdict.reason()));
    }

    /** {@return whether what is due may be waiting here alone, so that there is no need to look again at once} */
    public boolean hasSetAside() {
        return aside.anyWaits(instance.time().nanos());
    }

    private record Batch(int count, Optional<PlanWriter> writer) {
        static final Batch NONE = new Batch(0, Optional.empty());
    }

    private Batch make(Transaction tx, Instance.Session session, List<OneOffOrder> due) {
        if (due.isEmpty()) {
            return Batch.NONE;
        }
        Instant now = instance.trusted(tx.now());
        Map<Long, JobRow> rows = new HashMap<>(
                tx.lockJobsById(due.stream().map(OneOffOrder::job).collect(Collectors.toCollection(TreeSet::new))));
        Map<VersionKey, Job> jobs = instance.definitions()
                .get(tx, rows.values().stream().map(JobRow::versionKey).toList());
        Gates gates = GateLocks.of(tx, jobs.values(), own(due));
        if (tx.sessions().hold(session.lease()).isEmpty()) {
            return Batch.NONE;
        }
        List<OneOffOrder> locked =
                tx.oneOffs().lock(due.stream().map(OneOffOrder::run).toList());
        PlanWriter writer = new PlanWriter(
                instance,
                tx,
                new Leasing(instance, Optional.of(session)),
                gates,
                now,
                instance.time().nanos());
        KeyedQueues queues = KeyedQueues.read(tx, locked);
        int made = 0;
        for (OneOffOrder oneOff : locked) {
            JobRow row = Objects.requireNonNull(rows.get(oneOff.job()), oneOff::toString);
            Job job = jobs.get(row.versionKey());
            if (job == null) {
                instance.tellUnreadable(row.name().toString());
                continue;
            }
            made++;
            Decision decision = decide(job, row, oneOff, gates, now, queues);
            writer.addOneOff(row, job, oneOff, decision);
            queues.noted(oneOff, decision.verdict());
            rows.put(row.id(), counted(row, decision.verdict()));
        }
        rows.values().forEach(row -> writer.advance(JobAdvance.of(row)));
        writer.write();
        return new Batch(made, Optional.of(writer));
    }

    private static Set<GateKey> own(List<OneOffOrder> due) {
        return due.stream().flatMap(oneOff -> oneOff.exclusive().stream()).collect(Collectors.toSet());
    }

    /** {@return a row with one more run or waiting run, as was decided} */
    public static JobRow counted(JobRow row, Verdict verdict) {
        return switch (verdict) {
            case START -> row.counted(row.used() + 1, row.waiting());
            case HOLD -> row.counted(row.used(), row.waiting() + 1);
            case SKIP -> row;
        };
    }

    private static Decision decide(
            Job job, JobRow row, OneOffOrder oneOff, Gates gates, Instant now, KeyedQueues queues) {
        Origin origin = oneOff.parent().isPresent() ? Origin.FOLLOW_UP : Origin.ONE_OFF;
        ZoneId zone = job.schedules().isEmpty() ? UTC : job.schedules().get(0).zone();
        Occurrence occurrence =
                OnceSchedule.at(oneOff.dueAt(), zone).occurrence().orElseThrow();
        if (PlanDecider.isTooLate(job, oneOff.dueAt(), now)) {
            return new Decision(occurrence, Verdict.SKIP, Optional.of(Reason.TOO_LATE), origin);
        }
        if (row.dropped()) {
            return new Decision(occurrence, Verdict.SKIP, Optional.of(Reason.JOB_DROPPED), origin);
        }
        Verdict verdict = oneOff.exclusive().isPresent()
                ? PlanDecider.admitKeyed(job, row, gates, oneOff.gates(job), queues.lets(oneOff), now)
                : PlanDecider.admitOneOff(job, row, gates, now);
        return new Decision(occurrence, verdict, Optional.empty(), origin);
    }
}
