package dev.brume.duties;

import dev.brume.Event;
import dev.brume.Job;
import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.decide.Gates;
import dev.brume.decide.Plan;
import dev.brume.decide.Plan.Decision;
import dev.brume.decide.Plan.Verdict;
import dev.brume.port.AfterEnd;
import dev.brume.port.Fence;
import dev.brume.port.JobAdvance;
import dev.brume.port.JobRow;
import dev.brume.port.LeasedRun;
import dev.brume.port.LedgerLine;
import dev.brume.port.Numbers;
import dev.brume.port.OneOffRow;
import dev.brume.port.RunRow;
import dev.brume.port.Span;
import dev.brume.port.Transaction;
import dev.brume.schedule.Note;
import dev.brume.schedule.Occurrence;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;

/**
 * Writes plans: runs, skipped lines, spans and cursors, in one transaction.
 *
 * <p>What is leased at once goes by priority. Nothing is started or told before {@link #committed}.
 */
final class PlanWriter {
    private static final Duration PROMPT = Duration.ofMillis(500);

    private final Instance instance;
    private final Transaction tx;
    private final Leasing leasing;
    private final Gates gates;
    private final Instant now;
    private final long nanos;
    private final List<Item> items = new ArrayList<>();
    private final List<RunRow> runs = new ArrayList<>();
    private final List<LedgerLine> skipped = new ArrayList<>();
    private final List<Span> spans = new ArrayList<>();
    private final List<Planned> plans = new ArrayList<>();
    private final Map<Long, AfterEnd> afterEnds = new HashMap<>();
    private final List<LeasedRun> leased = new ArrayList<>();
    private final List<Runnable> tales = new ArrayList<>();

    private final List<JobAdvance> advances = new ArrayList<>();
    private final Map<Long, Long> oneOffRuns = new HashMap<>();

    private record Item(JobRow row, Job job, Decision decision, Optional<OneOffRow> oneOff) {}

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
    }

    void add(JobRow row, Job job, Plan plan) {
        plan.decisions().forEach(decision -> items.add(new Item(row, job, decision, Optional.empty())));
        plan.missed().ifPresent(span -> {
            spans.add(span);
            tales.add(() -> instance.tell(Event.Kind.MISSED, job.key(), describe(span)));
        });
        plans.add(new Planned(row, plan));
    }

    private record Planned(JobRow row, Plan plan) {}

    /** Adds the run of a one-off, or the line that says why there is none. */
    void addOneOff(JobRow row, Job job, OneOffRow oneOff, Decision decision) {
        items.add(new Item(row, job, decision, Optional.of(oneOff)));
    }

    /** Adds a change of a job that no plan of it brings. */
    void advance(JobAdvance change) {
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
                planned.row().id(),
                plan.cursor(),
                plan.nextAt(),
                plan.used(),
                plan.waiting(),
                Optional.empty(),
                afterEnd);
    }

    /** Where a job's schedule stands that goes by the ends of runs, if what was written changed that. */
    Optional<AfterEnd> afterEnd(long job) {
        return Optional.ofNullable(afterEnds.get(job));
    }

    private static String describe(Span span) {
        return span.count() == 1
                ? "1 occurrence missed, planned " + span.first()
                : span.count() + " occurrences missed, planned " + span.first() + " to " + span.last();
    }

    void write() {
        items.sort(Comparator.comparingInt((Item item) -> -item.job().priority())
                .thenComparing(item -> item.decision().occurrence().instant()));
        Numbers numbers = items.isEmpty() ? new Numbers(List.of(), List.of()) : tx.take(items.size());
        for (int i = 0; i < items.size(); i++) {
            write(items.get(i), numbers.ids().get(i), numbers.fences().get(i));
        }
        plans.stream().map(this::advance).forEach(advances::add);
        advances.forEach(advance -> advance.afterEnd().ifPresent(state -> afterEnds.put(advance.id(), state)));
        tx.advance(advances);
        if (!runs.isEmpty()) {
            tx.addRuns(runs);
        }
        List<RunRow> queued = runs.stream()
                .filter(run -> run.state() == RunState.HELD && !run.gates().isEmpty())
                .toList();
        if (!queued.isEmpty()) {
            tx.gates().queue(queued);
        }
        GateLocks.write(tx, gates);
        if (!oneOffRuns.isEmpty()) {
            tx.oneOffs().taken(oneOffRuns);
        }
        if (!skipped.isEmpty()) {
            tx.addLines(skipped);
        }
        if (!spans.isEmpty()) {
            tx.addSpans(spans);
        }
    }

    private void write(Item item, long id, long fence) {
        Decision decision = item.decision();
        RunRow.Owed owed = owed(item);
        item.oneOff.ifPresent(oneOff -> oneOffRuns.put(oneOff.id(), id));
        if (decision.verdict() == Verdict.SKIP) {
            skipped.add(line(item, owed, id));
            String reason = decision.reason().orElse("");
            tales.add(() ->
                    instance.tell(Event.Kind.SKIPPED, item.job().key(), id, reason + ", planned " + owed.planned()));
            return;
        }
        boolean starts = decision.verdict() == Verdict.START;
        Optional<RunRow.Lease> lease = starts
                ? leasing.take(item.job()).map(own -> new RunRow.Lease(own.id(), Fence.of(own.epoch(), fence), now))
                : Optional.empty();
        RunState waiting = starts ? RunState.PLANNED : RunState.HELD;
        RunRow run = new RunRow(
                id,
                owed,
                item.row().version(),
                lease.isPresent() ? RunState.RUNNING : waiting,
                item.job().lane(),
                item.job().priority(),
                item.job().needs(),
                readyAt(owed.planned()),
                lease,
                List.of(),
                lease.isPresent() ? 1 : 0,
                payload(item),
                item.job().gates());
        runs.add(run);
        if (starts && !leasing.knows(item.job())) {
            tales.add(() -> instance.tellUnknown(item.job()));
        }
        if (lease.isPresent()) {
            leased.add(new LeasedRun(run, item.job(), instance.settings().instance(), nanos));
        } else if (!starts) {
            tales.add(() -> instance.tell(
                    Event.Kind.HELD, item.job().key(), id, "waits for an earlier run, planned " + owed.planned()));
        }
    }

    private static RunRow.Owed owed(Item item) {
        Occurrence occurrence = item.decision().occurrence();
        return new RunRow.Owed(
                item.row().id(),
                occurrence.instant(),
                item.oneOff.map(row -> RunRow.Owed.slotOf(row.oneOff().key())).orElse(""),
                item.decision().origin(),
                occurrence.nominal(),
                occurrence.zone().getId(),
                notes(occurrence));
    }

    private static Optional<String> payload(Item item) {
        return item.oneOff.flatMap(row -> row.oneOff().payload()).or(item.job()::payload);
    }

    /** What is written late is ready from now on: others may have looked past its planned time already. */
    private Instant readyAt(Instant planned) {
        return planned.isBefore(now.minus(PROMPT)) ? now : planned;
    }

    private static Optional<String> notes(Occurrence occurrence) {
        return occurrence.notes().isEmpty()
                ? Optional.empty()
                : Optional.of(occurrence.notes().stream().map(Note::name).collect(Collectors.joining(",")));
    }

    private static LedgerLine line(Item item, RunRow.Owed owed, long id) {
        return new LedgerLine(
                id,
                owed,
                item.row().version(),
                item.job().lane(),
                owed.planned(),
                Outcome.SKIPPED,
                item.decision().reason(),
                List.of(),
                payload(item),
                Optional.empty());
    }

    /** Starts what was leased and tells what was decided; to be called when the transaction has committed. */
    void committed() {
        tales.forEach(Runnable::run);
        Leasing.start(instance, leased);
    }
}
