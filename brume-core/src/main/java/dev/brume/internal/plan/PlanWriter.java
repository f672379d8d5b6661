package dev.brume.internal.plan;

import dev.brume.Event;
import dev.brume.Job;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.RunState;
import dev.brume.StopReason;
import dev.brume.history.AfterEnd;
import dev.brume.history.JobRow;
import dev.brume.history.RunRow;
import dev.brume.history.Span;
import dev.brume.internal.decide.Gates;
import dev.brume.internal.decide.Plan;
import dev.brume.internal.decide.Plan.Decision;
import dev.brume.internal.decide.Plan.Verdict;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.run.GateLocks;
import dev.brume.internal.run.Leasing;
import dev.brume.spi.Fence;
import dev.brume.spi.JobAdvance;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.LedgerLine;
import dev.brume.spi.Numbers;
import dev.brume.spi.OneOffOrder;
import dev.brume.spi.Traces;
import dev.brume.spi.Transaction;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * Writes plans: runs, skipped lines, spans and cursors, in one transaction.
 *
 * <p>What is leased at once goes by priority. Nothing is started or told before {@link #committed}.
 */
public final class PlanWriter {
    private static final Duration PROMPT = Duration.ofMillis(500);

    private final Instance instance;
    private final Transaction tx;
    private final Leasing leasing;
    private final Gates gates;
    private final Instant now;
    private final long nanos;
    private final List<PlanItem> items = new ArrayList<>();
    private final List<RunRow> runs = new ArrayList<>();
    private final List<LedgerLine> skipped = new ArrayList<>();
    private final List<Span> spans = new ArrayList<>();
    private final List<Planned> plans = new ArrayList<>();
    private final Map<Long, AfterEnd> afterEnds = new HashMap<>();
    private final List<LeasedRun> leased = new ArrayList<>();
    private final List<Runnable> tales = new ArrayList<>();
    private final Traces.Planning planning;

    private final List<JobAdvance> advances = new ArrayList<>();
    private final List<Long> oneOffs = new ArrayList<>();

    private boolean looksAgain;

    /** Whether a one-off became a run that others are to start; who ordered it may have called this instance alone. */
    private boolean forOthers;

    private final List<Long> endedHere = new ArrayList<>();
    private final List<Long> ids = new ArrayList<>();

    /**
     * An order by hand.
     *
     * @param who gave it
     * @param payload what its run is given, empty for the job's own
     * @param backfill whether it makes up for an occurrence, at most once each
     */
    public record ByHand(String who, Optional<String> payload, boolean backfill) {
        String slot(long run) {
            return backfill ? "+backfill" : "+" + run;
        }
    }

    /**
     * Begins a batch.
     *
     * @param gates the shared gates of all jobs in it, locked
     * @param now the database's clock
     * @param nanos the monotonic clock, read together with it
     */
    PlanWriter(Instance instance, Transaction tx, Leasing leasing, Gates gates, Instant now, long nanos) {
        this.instance = instance;
        this.tx = tx;
        this.leasing = leasing;
        this.gates = gates;
        this.now = now;
        this.nanos = nanos;
        this.planning = instance.traces().planning();
    }

    /** Begins a batch whose runs wait for whoever claims them. */
    public static PlanWriter leasingNothing(Instance instance, Transaction tx, Gates gates, Instant now) {
        Leasing none = new Leasing(instance, Optional.empty());
        return new PlanWriter(instance, tx, none, gates, now, instance.time().nanos());
    }

    public void add(JobRow row, Job job, Plan plan) {
        plan.decisions().forEach(decision -> items.add(PlanItem.scheduled(row, job, decision)));
        plan.missed().ifPresent(span -> {
            spans.add(span);
            tales.add(() -> instance.tell(
                    Event.Kind.MISSED, job.name(), describe(span), event -> event.withCount(span.count())));
        });
        plans.add(new Planned(row, plan));
    }

    private record Planned(JobRow row, Plan plan) {}

    /** Adds the run of a one-off, or the line that says why there is none. */
    void addOneOff(JobRow row, Job job, OneOffOrder oneOff, Decision decision) {
        items.add(new PlanItem(row, job, decision, Optional.of(oneOff), Optional.empty(), Optional.empty()));
    }

    /** Adds a run that someone ordered by hand. */
    public void addByHand(JobRow row, Job job, ByHand order, Decision decision) {
        items.add(new PlanItem(row, job, decision, Optional.empty(), Optional.of(order), Optional.empty()));
    }

    /** Adds an occurrence that someone ordered to be left out. */
    public void addSkipped(JobRow row, Job job, Decision decision) {
        items.add(PlanItem.scheduled(row, job, decision));
    }

    /** {@return the ids of the runs and lines that were written, by priority and then by time} */
    public List<Long> ids() {
        return ids;
    }

    /** Adds a change of a job that no plan of it brings. */
    public void advance(JobAdvance change) {
        advances.add(change);
    }

    /** A schedule that goes by the ends of runs waits for the run that its occurrence got. */
    private JobAdvance advance(Planned planned) {
        Plan plan = planned.plan();
        Optional<AfterEnd> afterEnd = plan.endAwaited().isEmpty()
                ? plan.afterEnd()
                : runs.stream()
                        .filter(run -> run.owed().job() == planned.row().id()
                                && run.owed().planned().equals(plan.endAwaited().get()))
                        .map(run -> AfterEnd.waiting(run.id()))
                        .findFirst();
        return new JobAdvance(
                planned.row().id(), plan.cursor(), plan.nextAt(), planned.row().runs(), afterEnd);
    }

    /** The new state of a job's {@code afterEnd} schedule, if this batch changed it. */
    public Optional<AfterEnd> afterEnd(long job) {
        return Optional.ofNullable(afterEnds.get(job));
    }

    private static String describe(Span span) {
        return span.occurrences() + " missed, planned " + span.first()
                + (span.first().equals(span.last()) ? "" : " to " + span.last());
    }

    public void write() {
        if (items.stream().anyMatch(PlanItem::isForEach)) {
            List<PlanItem> all = new OnEach(tx).spread(items);
            items.clear();
            items.addAll(all);
        }
        items.replaceAll(new DecidedLate(tx, now, items)::judge);
        items.sort(Comparator.comparingInt((PlanItem item) -> -item.job().priority())
                .thenComparing(item -> item.decision().occurrence().instant()));
        Numbers numbers = items.isEmpty() ? new Numbers(List.of(), List.of()) : tx.take(items.size());
        for (int i = 0; i < items.size(); i++) {
            PlanItem item = items.get(i);
            long id = item.oneOff().map(OneOffOrder::run).orElse(numbers.ids().get(i));
            ids.add(id);
            write(item, id, numbers.fences().get(i));
        }
        plans.stream().map(this::advance).forEach(advances::add);
        advances.forEach(advance -> advance.afterEnd().ifPresent(state -> afterEnds.put(advance.id(), state)));
        if (!runs.isEmpty()) {
            tx.addRuns(runs);
            NewestOfBatch.Result result = new NewestOfBatch(items, runs).write(tx);
            advances.replaceAll(advance -> advance.with(result.newest().getOrDefault(advance.id(), advance.runs())));
            looksAgain = !result.lookAgain().isEmpty();
        }
        tx.advance(advances);
        List<RunRow> queued = runs.stream()
                .filter(run -> run.state() == RunState.WAITING && !run.gates().isEmpty())
                .toList();
        if (!queued.isEmpty()) {
            tx.gates().queue(queued);
        }
        GateLocks.write(tx, gates);
        if (!oneOffs.isEmpty()) {
            tx.oneOffs().made(oneOffs);
        }
        plans.stream().filter(planned -> planned.plan().supersedes()).forEach(this::supersede);
        if (!skipped.isEmpty()) {
            tx.addLines(skipped);
        }
        if (!spans.isEmpty()) {
            tx.addSpans(spans);
        }
    }

    /** The running run is asked to stop, waiting runs are skipped, and the newest alone goes on waiting. */
    private void supersede(Planned planned) {
        long newest = runs.stream()
                .filter(run -> run.owed().job() == planned.row().id())
                .mapToLong(RunRow::id)
                .max()
                .orElseThrow();
        List<Long> running = new ArrayList<>();
        for (RunRow run : tx.orders().ofJob(planned.row().id())) {
            if (run.id() == newest) {
                continue;
            }
            if (!skip(planned.row(), run, Reason.SUPERSEDED, "by run " + newest)) {
                running.add(run.id());
            }
        }
        tx.orders().askToStop(running, StopReason.SUPERSEDED);
        tales.add(instance::ready);
    }

    /** Skips the waiting runs of a locked job, which nobody could let go any more. */
    public void skipWaiting(JobRow row, Reason reason) {
        tx.orders().ofJob(row.id()).stream()
                .filter(run -> run.state() == RunState.WAITING)
                .forEach(run -> skip(row, run, reason, "while it waited"));
    }

    private boolean skip(JobRow row, RunRow run, Reason reason, String how) {
        boolean skipped = run.lease().isEmpty() && tx.orders().endWaiting(run.id(), Outcome.SKIPPED, reason);
        if (skipped) {
            endedHere.add(run.id());
            tales.add(() -> instance.tell(
                    Event.Kind.SKIPPED,
                    row.name(),
                    run.id(),
                    reason + " " + how,
                    event -> event.withOutcome(Outcome.SKIPPED).withReason(reason)));
        }
        return skipped;
    }

    private void write(PlanItem item, long id, long fence) {
        Decision decision = item.decision();
        RunRow.Owed owed = item.owed(id);
        item.oneOff().ifPresent(oneOff -> oneOffs.add(id));
        if (decision.verdict() == Verdict.SKIP) {
            skipped.add(item.line(owed, id));
            Reason reason = decision.reason().orElseThrow();
            tales.add(() -> instance.tell(
                    Event.Kind.SKIPPED,
                    item.job().name(),
                    id,
                    reason + ", planned " + owed.planned(),
                    event -> event.withOutcome(Outcome.SKIPPED)
                            .withReason(reason)
                            .withPlanned(owed.planned())));
            return;
        }
        boolean starts = decision.verdict() == Verdict.START;
        Optional<RunRow.Lease> lease = starts
                ? lease(item).map(own -> new RunRow.Lease(own.id(), Fence.of(own.epoch(), fence), now))
                : Optional.empty();
        RunState waiting = starts ? RunState.PLANNED : RunState.WAITING;
        RunRow run = new RunRow(
                id,
                owed,
                item.row().version(),
                lease.isPresent() ? RunState.RUNNING : waiting,
                item.job().lane(),
                item.job().priority(),
                item.needs(),
                readyAt(owed.planned()),
                lease,
                List.of(),
                lease.isPresent() ? 1 : 0,
                item.payload(),
                item.gates(),
                lease.isPresent() ? Optional.empty() : item.startBy(),
                item.shownPayload(),
                causes(item));
        runs.add(run);
        if (instance.wants(Event.Kind.PLANNED)) {
            tales.add(() -> instance.tell(
                    Event.Kind.PLANNED,
                    item.job().name(),
                    id,
                    owed.origin() + ", planned " + owed.planned(),
                    event -> event.withPlanned(owed.planned())));
        }
        if (starts && item.only().isEmpty() && leasing.leavesToOthers(item.job())) {
            tales.add(() -> instance.tellUnknown(item.job()));
        }
        forOthers |= starts && lease.isEmpty() && item.oneOff().isPresent();
        if (lease.isPresent()) {
            leased.add(new LeasedRun(run, item.job(), instance.settings().instance(), nanos));
        } else if (!starts) {
            tales.add(() -> instance.tell(
                    Event.Kind.WAITING,
                    item.job().name(),
                    id,
                    "waits for an earlier run, planned " + owed.planned(),
                    event -> event.withPlanned(owed.planned())));
        }
    }

    /** What ordered it, and this planning. */
    private Optional<String> causes(PlanItem item) {
        Optional<String> order = item.byHand().isPresent()
                ? instance.traces().here()
                : item.oneOff().flatMap(OneOffOrder::trace);
        String all = Stream.of(order, planning.context())
                .flatMap(Optional::stream)
                .distinct()
                .collect(Collectors.joining(" "));
        return all.isEmpty() ? Optional.empty() : Optional.of(all);
    }

    private Optional<Instance.Session> lease(PlanItem item) {
        return item.only().isPresent()
                ? leasing.take(item.job(), item.only().get().id())
                : leasing.take(item.job());
    }

    /** A run that is written late is ready from now on: other instances may have looked past its planned time already. */
    private Instant readyAt(Instant planned) {
        return planned.isBefore(now.minus(PROMPT)) ? now : planned;
    }

    /** Starts what was leased and tells what was decided; to be called when the transaction has committed. */
    public void committed() {
        planning.committed(runs.size());
        tales.forEach(Runnable::run);
        instance.ended(endedHere);
        Leasing.start(instance, leased);
        if (looksAgain || forOthers) {
            instance.call();
        }
    }
}
