package dev.brume.internal.plan;

import dev.brume.Attempt;
import dev.brume.Event;
import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.Mask;
import dev.brume.Outcome;
import dev.brume.Reasons;
import dev.brume.RunState;
import dev.brume.StopReason;
import dev.brume.history.AfterEnd;
import dev.brume.history.JobRow;
import dev.brume.history.Needs;
import dev.brume.history.RunRow;
import dev.brume.history.SessionRow;
import dev.brume.history.Span;
import dev.brume.internal.decide.Gates;
import dev.brume.internal.decide.Plan;
import dev.brume.internal.decide.Plan.Decision;
import dev.brume.internal.decide.Plan.Verdict;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.run.GateLocks;
import dev.brume.internal.run.Leasing;
import dev.brume.schedule.Note;
import dev.brume.schedule.Occurrence;
import dev.brume.spi.Fence;
import dev.brume.spi.JobAdvance;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.LedgerLine;
import dev.brume.spi.Numbers;
import dev.brume.spi.OneOffOrder;
import dev.brume.spi.OneOffRow;
import dev.brume.spi.Transaction;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * Writes plans: runs, skipped lines, spans and cursors, in one transaction.
 *
 * <p>What is leased at once goes by priority. Nothing is started or told before {@link #committed}.
 */
public final class PlanWriter {
    /** Decided about sooner, an occurrence was decided about when it fell due; nobody asks then what stood in its way. */
    private static final Duration DECIDED_LATE = Duration.ofMillis(100);

    /** So late nobody decides because of load alone. */
    private static final Duration OUTAGE = Duration.ofSeconds(2);

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

    private final Map<Long, Integer> onEach = new HashMap<>();
    private final List<Long> endedHere = new ArrayList<>();
    private final List<Long> ids = new ArrayList<>();

    /** A run to be written; an order by hand has a slot of its own, so that it may be owed to the same occurrence as others. */
    private record Item(
            JobRow row,
            Job job,
            Decision decision,
            Optional<OneOffRow> oneOff,
            Optional<ByHand> byHand,
            Optional<SessionRow> only) {
        static Item scheduled(JobRow row, Job job, Decision decision) {
            return new Item(row, job, decision, Optional.empty(), Optional.empty(), Optional.empty());
        }

        Item decided(Optional<SessionRow> session, Verdict verdict, Optional<String> reason) {
            Decision own = new Decision(decision.occurrence(), verdict, reason, decision.origin());
            return new Item(row, job, own, Optional.empty(), Optional.empty(), session);
        }

        Item because(String reason) {
            Decision own =
                    new Decision(decision.occurrence(), decision.verdict(), Optional.of(reason), decision.origin());
            return new Item(row, job, own, oneOff, byHand, only);
        }

        boolean isForEach() {
            return job.onEachInstance() && decision.verdict() == Verdict.START && oneOff.isEmpty() && byHand.isEmpty();
        }
    }

    /**
     * An order by hand.
     *
     * @param who gave it
     * @param payload what its run is given, empty for the job's own
     * @param backfill whether it makes up for an occurrence, at most once each
     */
    public record ByHand(String who, Optional<String> payload, boolean backfill) {
        private String slot(long run) {
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
    }

    /** Begins a batch whose runs wait for whoever claims them. */
    public static PlanWriter leasingNothing(Instance instance, Transaction tx, Gates gates, Instant now) {
        Leasing none = new Leasing(instance, Optional.empty());
        return new PlanWriter(instance, tx, none, gates, now, instance.time().nanos());
    }

    public void add(JobRow row, Job job, Plan plan) {
        plan.decisions().forEach(decision -> items.add(Item.scheduled(row, job, decision)));
        plan.missed().ifPresent(span -> {
            spans.add(span);
            tales.add(() -> instance.tell(Event.Kind.MISSED, job.name(), describe(span)));
        });
        plans.add(new Planned(row, plan));
    }

    private record Planned(JobRow row, Plan plan) {}

    /** Adds the run of a one-off, or the line that says why there is none. */
    void addOneOff(JobRow row, Job job, OneOffRow oneOff, Decision decision) {
        items.add(new Item(row, job, decision, Optional.of(oneOff), Optional.empty(), Optional.empty()));
    }

    /** Adds a run that someone ordered by hand. */
    public void addByHand(JobRow row, Job job, ByHand order, Decision decision) {
        items.add(new Item(row, job, decision, Optional.empty(), Optional.of(order), Optional.empty()));
    }

    /** Adds an occurrence that someone ordered to be left out. */
    public void addSkipped(JobRow row, Job job, Decision decision) {
        items.add(Item.scheduled(row, job, decision));
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
                planned.row().id(),
                plan.cursor(),
                plan.nextAt(),
                plan.used() + onEach.getOrDefault(planned.row().id(), 0),
                plan.waiting(),
                Optional.empty(),
                afterEnd);
    }

    /** The new state of a job's {@code afterEnd} schedule, if this batch changed it. */
    public Optional<AfterEnd> afterEnd(long job) {
        return Optional.ofNullable(afterEnds.get(job));
    }

    /** Decides what is owed by each instance: which of them there are, and which are busy with it. */
    private final class OnEach {
        private final Map<String, SessionRow> newest = new TreeMap<>();
        private final Map<Long, Map<String, Integer>> running = new HashMap<>();

        OnEach(List<SessionRow> open) {
            open.forEach(session -> newest.merge(
                    session.instance(), session, (a, b) -> a.openedAt().isAfter(b.openedAt()) ? a : b));
        }

        List<Item> spread(List<Item> given) {
            return given.stream()
                    .flatMap(item -> item.isForEach() ? each(item).stream() : Stream.of(item))
                    .toList();
        }

        private List<Item> each(Item item) {
            List<Item> all = newest.values().stream()
                    .filter(session -> session.laneNames().contains(item.job().lane())
                            && session.labels().containsAll(item.job().requireLabels()))
                    .map(session -> decide(item, session))
                    .toList();
            return all.isEmpty()
                    ? List.of(item.decided(Optional.empty(), Verdict.SKIP, Optional.of(Reasons.NO_INSTANCE)))
                    : all;
        }

        private Item decide(Item item, SessionRow session) {
            Map<String, Integer> busy = running.computeIfAbsent(item.row().id(), this::running);
            int now = busy.getOrDefault(session.instance(), 0);
            if (now >= item.job().ifBusy().places()) {
                return item.decided(Optional.of(session), Verdict.SKIP, Optional.of(Reasons.BUSY));
            }
            busy.put(session.instance(), now + 1);
            onEach.merge(item.row().id(), 1, Integer::sum);
            return item.decided(Optional.of(session), Verdict.START, Optional.empty());
        }

        private Map<String, Integer> running(long job) {
            Map<String, Integer> busy = new HashMap<>();
            tx.orders().ofJob(job).stream()
                    .filter(run -> run.needs().session().isPresent())
                    .forEach(run -> busy.merge(run.owed().slot(), 1, Integer::sum));
            return busy;
        }
    }

    private static String describe(Span span) {
        return span.occurrences() + " missed, planned " + span.first()
                + (span.first().equals(span.last()) ? "" : " to " + span.last());
    }

    public void write() {
        if (items.stream().anyMatch(Item::isForEach)) {
            List<Item> all = new OnEach(tx.sessions().holdOpen()).spread(items);
            items.clear();
            items.addAll(all);
        }
        items.replaceAll(this::orDecidedLate);
        items.sort(Comparator.comparingInt((Item item) -> -item.job().priority())
                .thenComparing(item -> item.decision().occurrence().instant()));
        Numbers numbers = items.isEmpty() ? new Numbers(List.of(), List.of()) : tx.take(items.size());
        for (int i = 0; i < items.size(); i++) {
            ids.add(numbers.ids().get(i));
            write(items.get(i), numbers.ids().get(i), numbers.fences().get(i));
        }
        plans.stream().map(this::advance).forEach(advances::add);
        advances.forEach(advance -> advance.afterEnd().ifPresent(state -> afterEnds.put(advance.id(), state)));
        tx.advance(advances);
        if (!runs.isEmpty()) {
            tx.addRuns(runs);
        }
        List<RunRow> queued = runs.stream()
                .filter(run -> run.state() == RunState.WAITING && !run.gates().isEmpty())
                .toList();
        if (!queued.isEmpty()) {
            tx.gates().queue(queued);
        }
        GateLocks.write(tx, gates);
        if (!oneOffRuns.isEmpty()) {
            tx.oneOffs().taken(oneOffRuns);
        }
        plans.stream().filter(planned -> planned.plan().supersedes()).forEach(this::supersede);
        if (!skipped.isEmpty()) {
            tx.addLines(skipped);
        }
        if (!spans.isEmpty()) {
            tx.addSpans(spans);
        }
    }

    /** Busy is no reason where nobody was when it fell due: what stands in its way began only as late as this is decided. */
    private Item orDecidedLate(Item item) {
        Decision decision = item.decision();
        Instant due = decision.occurrence().instant();
        boolean mayBe = decision.reason().filter(Reasons.BUSY::equals).isPresent()
                && item.only().isEmpty()
                && due.plus(DECIDED_LATE).isBefore(now);
        if (!mayBe) {
            return item;
        }
        List<RunRow> live = tx.orders().ofJob(item.row().id());
        List<Instant> begun = Stream.concat(
                        live.stream()
                                .filter(run -> run.state() != RunState.WAITING)
                                .map(PlanWriter::since),
                        items.stream()
                                .filter(other -> other.row().id() == item.row().id()
                                        && other.decision().verdict() == Verdict.START)
                                .map(other -> now))
                .toList();
        if (begun.isEmpty()) {
            // The one that has the place waits for a gate, or has ended just now and its end is not settled yet.
            return live.isEmpty() && due.plus(OUTAGE).isBefore(now) ? item.because(Reasons.DECIDED_LATE) : item;
        }
        return begun.stream().anyMatch(since -> !since.isAfter(due)) ? item : item.because(Reasons.DECIDED_LATE);
    }

    /** {@return since when a run has its place, as far as it shows; from when it was due, if it has not begun} */
    private static Instant since(RunRow run) {
        return run.attempts().stream()
                .findFirst()
                .map(Attempt::startedAt)
                .or(() -> run.lease().map(RunRow.Lease::since))
                .orElseGet(() -> run.owed().planned());
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
            if (run.lease().isEmpty() && tx.orders().endWaiting(run.id(), Outcome.SKIPPED, Reasons.SUPERSEDED)) {
                endedHere.add(run.id());
                tales.add(() -> instance.tell(
                        Event.Kind.SKIPPED,
                        planned.row().name(),
                        run.id(),
                        Reasons.SUPERSEDED + " by run " + newest,
                        event -> event.withOutcome(Outcome.SKIPPED).withReason(Reasons.SUPERSEDED)));
            } else {
                running.add(run.id());
            }
        }
        tx.orders().askToStop(running, StopReason.SUPERSEDED);
        tales.add(instance::ready);
    }

    private void write(Item item, long id, long fence) {
        Decision decision = item.decision();
        RunRow.Owed owed = owed(item, id);
        item.oneOff.ifPresent(oneOff -> oneOffRuns.put(oneOff.id(), id));
        if (decision.verdict() == Verdict.SKIP) {
            skipped.add(line(item, owed, id));
            String reason = decision.reason().orElse("");
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
                needs(item),
                readyAt(owed.planned()),
                lease,
                List.of(),
                lease.isPresent() ? 1 : 0,
                payload(item),
                item.job().gates(),
                lease.isPresent() ? Optional.empty() : startBy(item, owed.planned()),
                payload(item).filter(text -> !item.job().mask().isEmpty()).map(text -> shown(item, text)));
        runs.add(run);
        if (instance.wants(Event.Kind.PLANNED)) {
            tales.add(() -> instance.tell(
                    Event.Kind.PLANNED, item.job().name(), id, owed.origin() + ", planned " + owed.planned()));
        }
        if (starts && item.only().isEmpty() && leasing.leavesToOthers(item.job())) {
            tales.add(() -> instance.tellUnknown(item.job()));
        }
        if (lease.isPresent()) {
            leased.add(new LeasedRun(run, item.job(), instance.settings().instance(), nanos));
        } else if (!starts) {
            tales.add(() -> instance.tell(
                    Event.Kind.WAITING, item.job().name(), id, "waits for an earlier run, planned " + owed.planned()));
        }
    }

    /** A job that wants none of what it missed does not want those either that no worker was free for in time. */
    private static Optional<Instant> startBy(Item item, Instant planned) {
        if (item.byHand().isPresent()) {
            return Optional.empty();
        }
        IfMissed policy = item.job().ifMissed();
        boolean noneLate = item.oneOff().isEmpty()
                && item.decision().verdict() == Verdict.START
                && policy.choice() == IfMissed.Choice.SKIP;
        Optional<Duration> limit = item.job().startWithin();
        Optional<Duration> tolerated = noneLate ? Optional.of(policy.tolerance()) : Optional.empty();
        return Stream.of(limit, tolerated)
                .flatMap(Optional::stream)
                .min(Duration::compareTo)
                .map(planned::plus);
    }

    private Optional<Instance.Session> lease(Item item) {
        return item.only().isPresent()
                ? leasing.take(item.job(), item.only().get().id())
                : leasing.take(item.job());
    }

    private static Needs needs(Item item) {
        Needs any = Needs.of(item.job());
        return item.only().map(session -> any.of(session.id())).orElse(any);
    }

    private static RunRow.Owed owed(Item item, long id) {
        Occurrence occurrence = item.decision().occurrence();
        return new RunRow.Owed(
                item.row().id(),
                occurrence.instant(),
                item.byHand
                        .map(order -> order.slot(id))
                        .or(() -> item.oneOff.map(PlanWriter::slot))
                        .or(() -> item.only.map(SessionRow::instance))
                        .orElse(""),
                item.decision().origin(),
                occurrence.nominal(),
                occurrence.zone().getId(),
                notes(item.decision()),
                item.oneOff.flatMap(row -> row.oneOff().parent()),
                item.byHand.map(ByHand::who).or(() -> item.oneOff.flatMap(PlanWriter::orderedBy)));
    }

    /** A follow-up was ordered by no person. */
    private static Optional<String> orderedBy(OneOffRow row) {
        return Optional.of(row.oneOff().orderedBy())
                .filter(who -> row.oneOff().parent().isEmpty());
    }

    private static String shown(Item item, String payload) {
        return Mask.of(item.job()).apply(payload);
    }

    private static String slot(OneOffRow row) {
        OneOffOrder oneOff = row.oneOff();
        return oneOff.parent().isPresent() ? oneOff.key() : RunRow.Owed.slotOf(oneOff.key());
    }

    private static Optional<String> payload(Item item) {
        return item.byHand
                .flatMap(ByHand::payload)
                .or(() -> item.oneOff.flatMap(row -> row.oneOff().payload()))
                .or(item.job()::payload);
    }

    /** A run that is written late is ready from now on: other instances may have looked past its planned time already. */
    private Instant readyAt(Instant planned) {
        return planned.isBefore(now.minus(PROMPT)) ? now : planned;
    }

    /** The notes of the policies. That a run had to wait for a place is known only now, and stays on record. */
    private static Optional<String> notes(Decision decision) {
        Stream<String> schedules = decision.occurrence().notes().stream().map(Note::name);
        Stream<String> held = Stream.of(Reasons.WAITED).filter(note -> decision.verdict() == Verdict.HOLD);
        String all = Stream.concat(schedules, held).collect(Collectors.joining(","));
        return all.isEmpty() ? Optional.empty() : Optional.of(all);
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
                payload(item).map(text -> shown(item, text)),
                Optional.empty());
    }

    /** Starts what was leased and tells what was decided; to be called when the transaction has committed. */
    public void committed() {
        tales.forEach(Runnable::run);
        instance.ended(endedHere);
        Leasing.start(instance, leased);
    }
}
