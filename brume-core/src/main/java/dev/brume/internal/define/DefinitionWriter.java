package dev.brume.internal.define;

import dev.brume.CalendarName;
import dev.brume.Defined;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.history.AfterEnd;
import dev.brume.history.CalendarRow;
import dev.brume.history.Change;
import dev.brume.history.JobRow;
import dev.brume.history.Pause;
import dev.brume.history.PauseMark;
import dev.brume.history.VersionKey;
import dev.brume.internal.decide.Gates;
import dev.brume.internal.decide.Pinning;
import dev.brume.internal.decide.Plan;
import dev.brume.internal.decide.PlanDecider;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.order.Edit;
import dev.brume.internal.plan.PauseTurns;
import dev.brume.internal.plan.PlanWriter;
import dev.brume.internal.run.GateLocks;
import dev.brume.internal.run.Waiters;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.Durations;
import dev.brume.schedule.Occurrence;
import dev.brume.spi.NewJob;
import dev.brume.spi.Pins;
import dev.brume.spi.Redefinition;
import dev.brume.spi.Transaction;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.TreeMap;
import java.util.stream.Stream;

/** Writes new and changed jobs in one transaction; what the old versions owed is settled first. Confined to one thread. */
final class DefinitionWriter {
    private final Instance instance;
    private final Waiters waiters;
    private final Transaction tx;
    private final Edit edit;
    private final Map<CalendarName, CalendarRow> calendars;
    private final Instant decided;
    private final Map<VersionKey, Job> olds;
    private final boolean revised;
    private final Gates gates;
    final PlanWriter plans;
    final List<JobName> tugged = new ArrayList<>();
    private final List<NewJob> added = new ArrayList<>();
    private final List<Changed> changed = new ArrayList<>();
    private final List<Redefinition> redefined = new ArrayList<>();
    private final List<Change> changes = new ArrayList<>();
    final List<Defined> results = new ArrayList<>();
    private final Instant now;
    private final PauseTurns turns;
    final Map<JobName, List<String>> missing = new LinkedHashMap<>();

    private record Changed(JobRow row, Job job, Pins pins, String source, Instant decided) {}

    /**
     * Begins.
     *
     * @param olds the definitions in force of all jobs that may change, which are locked
     * @param edit who wants it, and why
     * @param revised whether the order of edits is certain
     */
    DefinitionWriter(
            Instance instance,
            Transaction tx,
            Edit edit,
            Map<CalendarName, CalendarRow> calendars,
            Map<VersionKey, Job> olds,
            boolean revised) {
        this.instance = instance;
        this.waiters = new Waiters(instance);
        this.tx = tx;
        this.edit = edit;
        this.calendars = calendars;
        this.olds = olds;
        this.revised = revised;
        this.gates = GateLocks.of(tx, olds.values());
        this.now = instance.trusted(tx.now());
        this.decided = now.minus(1, ChronoUnit.MICROS);
        this.turns = new PauseTurns(instance, tx, now);
        this.plans = PlanWriter.leasingNothing(instance, tx, gates, now);
    }

    void add(Job job, String source) {
        Pins pins = pins(job, Optional.empty(), decided);
        Job pinned = pinned(job, pins);
        Optional<Instant> first = firstByEnds(pinned, decided);
        Optional<Instant> nextAt = PlanDecider.earlier(pinned.next(decided).map(Occurrence::instant), first);
        added.add(new NewJob(pinned, pins, source, decided, nextAt, first.map(AfterEnd::due)));
        changes.add(change("DEFINED", job.name(), Optional.empty(), Optional.of(1), source));
        results.add(new Defined(job.name(), Defined.Kind.NEW, 1));
    }

    void change(JobRow before, Job job, String source) {
        Job old = Objects.requireNonNull(
                olds.get(before.versionKey()), () -> before.name() + ": not read before its change");
        JobRow row = turns.upToNow(before, old, gates);
        Plan last = PlanDecider.decideAll(old, row, decided, gates);
        plans.add(row, old, last);
        if (!revised && goesBackAndForth(row, old, job)) {
            tugged.add(row.name());
        }
        changed.add(new Changed(row, job, pins(job, Optional.of(old), last.cursor()), source, last.cursor()));
        changes.add(change("CHANGED", job.name(), Optional.of(row.version()), Optional.of(row.version() + 1), source));
        results.add(new Defined(job.name(), Defined.Kind.CHANGED, row.version() + 1));
    }

    /** There and back may be someone's second thoughts; there, back and there again are two who disagree. */
    private boolean goesBackAndForth(JobRow row, Job old, Job job) {
        if (row.version() < 3) {
            return false;
        }
        VersionKey last = new VersionKey(row.id(), row.version() - 1);
        VersionKey lastButOne = new VersionKey(row.id(), row.version() - 2);
        Map<VersionKey, Job> earlier = tx.definitions(List.of(last, lastButOne));
        return job.equals(earlier.get(last)) && old.equals(earlier.get(lastButOne));
    }

    private Pins pins(Job job, Optional<Job> before, Instant settled) {
        Map<String, Integer> numbers = new LinkedHashMap<>();
        for (DayCalendar calendar : job.calendars()) {
            CalendarRow row = calendars.get(CalendarsInForce.keyOf(job, calendar));
            numbers.put(calendar.name(), row == null ? 0 : row.number());
            if (row == null) {
                missing.computeIfAbsent(job.name(), key -> new ArrayList<>()).add(calendar.name());
            }
        }
        Job resolved = job.withCalendars(CalendarsInForce.daysOf(job, calendars));
        Instant from = settled.plus(1, ChronoUnit.MICROS);
        return Pinning.of(resolved, numbers, before, from, instance.settings().tzdata());
    }

    private Job pinned(Job job, Pins pins) {
        return pins.apply(job, CalendarsInForce.daysOf(job, calendars));
    }

    private Optional<Instant> firstByEnds(Job job, Instant settled) {
        Instant from = settled.plus(1, ChronoUnit.MICROS);
        return job.byEnds().flatMap(schedule -> schedule.firstByEnds(from)).map(Occurrence::instant);
    }

    void write() {
        refuseBelowFloor();
        plans.write();
        List<Pause> pauses = tx.orders().pauses();
        if (!added.isEmpty()) {
            List<Long> ids = tx.addJobs(added);
            build(ids);
            Map<Long, PauseMark> marks = new TreeMap<>();
            for (int i = 0; i < ids.size(); i++) {
                marks.put(ids.get(i), mark(pauses, added.get(i).job()));
            }
            marks.values().removeIf(PauseMark.NONE::equals);
            tx.orders().mark(marks);
        }
        if (!changed.isEmpty()) {
            Map<Long, PauseMark> marks = new TreeMap<>();
            changed.stream()
                    .filter(change -> !mark(pauses, change.job).equals(change.row.pause()))
                    .forEach(change -> marks.put(change.row.id(), mark(pauses, change.job)));
            tx.orders().mark(marks);
            redefined.addAll(changed.stream().map(this::redefinition).toList());
            tx.redefine(redefined);
            build(changed.stream().map(change -> change.row().id()).toList());
            waiters.lookAt(
                    tx,
                    changed.stream()
                            .map(Changed::row)
                            .filter(row -> row.waiting() > 0)
                            .map(JobRow::id)
                            .toList());
        }
        tx.addChanges(changes);
    }

    private void build(List<Long> jobs) {
        if (edit.built().isPresent() || !tx.builds(jobs).isEmpty()) {
            tx.build(jobs, edit.built());
        }
    }

    /** No definition keeps less than the floor that the archivist has set. */
    private void refuseBelowFloor() {
        List<Job> bounded = Stream.concat(
                        added.stream().map(NewJob::job), changed.stream().map(Changed::job))
                .filter(job -> job.keep().age().isPresent())
                .toList();
        Optional<Duration> floor =
                bounded.isEmpty() ? Optional.empty() : tx.retention().floor();
        for (Job job : bounded) {
            Duration age = job.keep().age().orElseThrow();
            if (floor.filter(least -> least.compareTo(age) > 0).isPresent()) {
                throw new IllegalArgumentException(job.name() + ": keep: for: " + Durations.format(age)
                        + " is below the floor of " + Durations.format(floor.get())
                        + " that the archivist has set for every job (brume keep shows it)");
            }
        }
    }

    private PauseMark mark(List<Pause> pauses, Job job) {
        return PauseMark.of(Pause.covering(pauses, job), now);
    }

    /** Tells what was decided, and lets go whoever may now; to be called when the transaction has committed. */
    void committed() {
        turns.committed();
        plans.committed();
        waiters.committed();
    }

    /** {@return when the first of what was written is due} */
    Optional<Instant> earliest() {
        return Stream.concat(
                        added.stream().map(NewJob::nextAt), redefined.stream().map(Redefinition::nextAt))
                .flatMap(Optional::stream)
                .min(Instant::compareTo);
    }

    /** The decisions of the old version stand, even if the clock was put back since. */
    private Redefinition redefinition(Changed change) {
        Job pinned = pinned(change.job, change.pins);
        Optional<AfterEnd> afterEnd = afterEnd(change.row, pinned, change.decided);
        Optional<Instant> nextAt = PlanDecider.earlier(
                pinned.next(change.decided).map(Occurrence::instant), afterEnd.flatMap(AfterEnd::due));
        return new Redefinition(
                change.row.id(),
                change.row.version() + 1,
                pinned,
                change.pins,
                change.source,
                change.decided,
                nextAt,
                afterEnd);
    }

    /** A schedule that goes by ends goes on where the one before it stood. */
    private Optional<AfterEnd> afterEnd(JobRow row, Job job, Instant settled) {
        if (job.byEnds().isEmpty()) {
            return Optional.empty();
        }
        Optional<AfterEnd> before = plans.afterEnd(row.id()).or(row::afterEnd);
        boolean goesOn = before.filter(
                        state -> state.due().isPresent() || state.run().isPresent())
                .isPresent();
        return goesOn ? before : firstByEnds(job, settled).map(AfterEnd::due);
    }

    private Change change(String kind, JobName key, Optional<Integer> before, Optional<Integer> after, String source) {
        return new Change(kind, edit.who(), edit.host(), Optional.of(key), before, after, source, edit.because());
    }
}
