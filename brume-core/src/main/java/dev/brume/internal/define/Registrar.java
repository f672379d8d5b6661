package dev.brume.internal.define;

import dev.brume.BrumeException;
import dev.brume.CalendarName;
import dev.brume.Defined;
import dev.brume.DefinitionSet;
import dev.brume.Event;
import dev.brume.FollowUp;
import dev.brume.GateKey;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Reason;
import dev.brume.Work;
import dev.brume.history.CalendarRow;
import dev.brume.history.Change;
import dev.brume.history.Gate;
import dev.brume.history.JobFilter;
import dev.brume.history.JobRow;
import dev.brume.history.JobView;
import dev.brume.history.Pause;
import dev.brume.history.SessionRow;
import dev.brume.history.SessionView;
import dev.brume.history.VersionKey;
import dev.brume.internal.decide.Gates;
import dev.brume.internal.decide.PlanDecider;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.order.AllowanceRules;
import dev.brume.internal.order.Edit;
import dev.brume.internal.order.PauseOrders;
import dev.brume.internal.plan.PauseTurns;
import dev.brume.internal.plan.PlanWriter;
import dev.brume.internal.run.GateLocks;
import dev.brume.schedule.DayCalendar;
import dev.brume.spi.Transaction;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Puts definitions and calendars in force.
 *
 * <p>A changed definition first settles what the old one owed up to now; the new one holds from that instant on,
 * inclusive. What did not change is found out without locking or writing anything. A changed calendar is a new version
 * of every job that goes by it.
 */
public final class Registrar {
    private static final Logger LOG = LoggerFactory.getLogger(Registrar.class);
    private static final int BATCH = 1000;
    private static final int MOST_NAMED = 3;

    private final Instance instance;
    private final Revisions revisions;
    private final GateDefinitions gates;
    private final TellingDefinitions tellings;

    /** Creates the registrar. */
    public Registrar(Instance instance) {
        this.instance = instance;
        this.revisions = new Revisions(instance);
        this.gates = new GateDefinitions(instance);
        this.tellings = new TellingDefinitions(instance);
    }

    /**
     * Puts definitions in force.
     *
     * @return what became of the jobs, in their order
     * @throws IllegalArgumentException if a job names a limit that is not defined, or is followed by one that is not or that
     *     leads back to it
     * @throws dev.brume.EditConflictException if something is not as the edit says that it was; nothing is changed then, unless
     *     the change came between two of its transactions
     */
    public List<Defined> define(DefinitionSet given, Edit edit) {
        DefinitionSet set =
                given.jobs().stream().allMatch(job -> job.followUps().isEmpty())
                        ? given
                        : instance.transact(tx -> followRenaming(tx, given));
        if (edit.seen().isPresent()) {
            instance.transact(tx -> {
                tx.lockDefinitions();
                edit.check(tx, keys(set.jobs()));
                edit.checkCalendars(
                        tx.calendars(set.calendars().keySet()), set.calendars().keySet());
                edit.checkLimits(GateDefinitions.caps(tx), set.limits().keySet());
                return null;
            });
        }
        if (!revisions.admit(set, edit.who())) {
            Map<JobName, JobRow> rows = instance.transact(tx -> tx.findJobs(keys(set.jobs())));
            return set.jobs().stream()
                    .map(job -> new Defined(
                            job.name(),
                            Defined.Kind.OUTDATED,
                            Optional.ofNullable(rows.get(job.name()))
                                    .map(JobRow::version)
                                    .orElse(0)))
                    .toList();
        }
        if (set.jobs().stream().anyMatch(job -> !job.followUps().isEmpty())) {
            instance.transact(tx -> {
                FollowUpRules.check(tx, set);
                return null;
            });
        }
        instance.transact(tx -> {
            refuseWhatIsNotAllowed(tx, set, edit);
            return null;
        });
        gates.define(set, edit);
        defineCalendars(set.calendars(), set.source(), edit);
        tellings.define(set, edit);
        List<Defined> results = new ArrayList<>();
        for (int from = 0; from < set.jobs().size(); from += BATCH) {
            List<Job> batch =
                    set.jobs().subList(from, Math.min(from + BATCH, set.jobs().size()));
            results.addAll(defineBatch(batch, set, edit));
        }
        results.stream()
                .filter(Registrar::isWritten)
                .forEach(result -> instance.tell(
                        Event.Kind.DEFINED, result.name(), result.kind() + ", version " + result.version()));
        tellWhatIsOlder(results, set, edit);
        tellWhatNobodyHas(set.jobs());
        return results;
    }

    /** Before any of a set is written; what is in force already is no matter. */
    private void refuseWhatIsNotAllowed(Transaction tx, DefinitionSet set, Edit edit) {
        Set<String> bounded = AllowanceRules.bounded(tx, set);
        if (bounded.isEmpty()) {
            return;
        }
        Map<GateKey, Gate> gates = GateDefinitions.byKey(tx);
        Map<String, Integer> limits = new HashMap<>(set.limits());
        limits.entrySet()
                .removeIf(limit -> Optional.ofNullable(gates.get(new GateKey(GateKey.Kind.LIMIT, limit.getKey())))
                        .filter(gate -> gate.cap() == limit.getValue()
                                && gate.rate()
                                        .equals(Optional.ofNullable(set.rates().get(limit.getKey()))))
                        .isPresent());
        Map<CalendarName, CalendarRow> known = tx.calendars(set.calendars().keySet());
        Map<CalendarName, DayCalendar> calendars = new HashMap<>(set.calendars());
        calendars.entrySet().removeIf(given -> !isNew(given, known));
        AllowanceRules.checkShared(
                tx, set.withRates(Map.of()).withLimits(limits).withCalendars(calendars));

        List<Job> jobs = set.jobs().stream()
                .filter(job -> bounded.contains(job.name().namespace()))
                .toList();
        List<Defined> results = compare(
                tx, CalendarsInForce.resolve(jobs, CalendarsInForce.of(tx, jobs)), tx.findJobs(keys(jobs)), set, edit);
        refuseWhatIsNotAllowed(tx, jobs, results);
    }

    /** Of those jobs that are to be written. */
    private static void refuseWhatIsNotAllowed(Transaction tx, List<Job> jobs, List<Defined> results) {
        AllowanceRules.check(
                tx,
                IntStream.range(0, jobs.size())
                        .filter(i -> isWritten(results.get(i)))
                        .mapToObj(jobs::get)
                        .toList(),
                results.stream()
                        .filter(result -> result.kind() == Defined.Kind.NEW)
                        .map(Defined::name)
                        .toList());
    }

    /** Once for all of them; while an application is rolled out that is as it should be. */
    private void tellWhatIsOlder(List<Defined> results, DefinitionSet set, Edit edit) {
        List<Defined> older = results.stream()
                .filter(result -> result.kind() == Defined.Kind.OUTDATED)
                .toList();
        if (!older.isEmpty()) {
            instance.transact(
                            tx -> tx.formerly(older.stream().map(Defined::name).toList()))
                    .forEach((name, row) -> LOG.info(
                            "{}: job {} of {} is called {} now, so its definition under the former name is left alone",
                            instance.settings().instance(),
                            name,
                            set.sourceInFull(),
                            row.name()));
        }
        if (!older.isEmpty() && edit.built().isPresent()) {
            LOG.info(
                    "{}: {} of {} jobs stay as a later build of the application defined them, such as {} in version {};"
                            + " this build is of {} (to go back to it: brume definitions accept {})",
                    instance.settings().instance(),
                    older.size(),
                    results.size(),
                    older.get(0).name(),
                    older.get(0).version(),
                    edit.built().get(),
                    set.sourceInFull());
        }
    }

    /** A name that was misspelt shows at once, and not when the first run has waited for a night. */
    private void tellWhatNobodyHas(List<Job> jobs) {
        List<Job> unknown = jobs.stream()
                .filter(job -> job.enabled() && job.work() instanceof Work.Registered)
                .filter(job -> !instance.handlers().contains(job.needs()))
                .toList();
        if (unknown.isEmpty()) {
            return;
        }
        List<SessionRow> alive = instance.store().history().sessions(/* ended= */ false).stream()
                .map(SessionView::row)
                .toList();
        Map<String, List<JobName>> byNeed = unknown.stream()
                .filter(job -> alive.stream()
                        .noneMatch(session -> session.handlers().isEmpty()
                                || session.handlers().get().contains(job.needs())))
                .collect(Collectors.groupingBy(
                        Job::needs, LinkedHashMap::new, Collectors.mapping(Job::name, Collectors.toList())));
        byNeed.forEach((need, keys) -> instance.tellProblem(some(keys) + " an instance that " + Work.inWords(need)
                + ", and none that lives has said so far that it does; runs wait until one does"));
    }

    private static String some(List<JobName> keys) {
        String names = keys.stream().limit(MOST_NAMED).map(JobName::toString).collect(Collectors.joining(", "));
        int more = keys.size() - MOST_NAMED;
        return names + (more > 0 ? " and " + more + " more" : "") + (keys.size() == 1 ? " needs" : " need");
    }

    // Calendars.

    private void defineCalendars(Map<CalendarName, DayCalendar> calendars, String source, Edit edit) {
        if (calendars.isEmpty()) {
            return;
        }
        Map<CalendarName, CalendarRow> known = instance.transact(tx -> tx.calendars(calendars.keySet()));
        boolean changed = calendars.entrySet().stream().anyMatch(given -> isNew(given, known));
        if (changed) {
            instance.transact(tx -> addCalendars(tx, calendars, source, edit))
                    .forEach(row ->
                            instance.tell(Event.Kind.DEFINED, "calendar " + row.name() + ", version " + row.number()));
        }
        calendars.keySet().forEach(key -> {
            repin(key, edit);
            new PauseOrders(instance, edit.by()).follow(key);
        });
    }

    private static boolean isNew(Map.Entry<CalendarName, DayCalendar> given, Map<CalendarName, CalendarRow> known) {
        CalendarRow row = known.get(given.getKey());
        return row == null || !row.days().equals(given.getValue());
    }

    private List<CalendarRow> addCalendars(
            Transaction tx, Map<CalendarName, DayCalendar> calendars, String source, Edit edit) {
        tx.lockDefinitions();
        Map<CalendarName, CalendarRow> known = tx.calendars(calendars.keySet());
        List<CalendarRow> added = new ArrayList<>();
        List<Change> changes = new ArrayList<>();
        calendars.entrySet().stream().filter(given -> isNew(given, known)).forEach(given -> {
            Optional<Integer> before =
                    Optional.ofNullable(known.get(given.getKey())).map(CalendarRow::number);
            int number = before.orElse(0) + 1;
            added.add(new CalendarRow(given.getKey(), number, given.getValue(), source));
            changes.add(new Change(
                    "CALENDAR_DEFINED",
                    edit.who(),
                    edit.host(),
                    Optional.empty(),
                    before,
                    Optional.of(number),
                    given.getKey() + " from " + source,
                    edit.because()));
        });
        if (!added.isEmpty()) {
            tx.addCalendars(added);
            tx.addChanges(changes);
        }
        return added;
    }

    /** Gives the jobs that go by an older version of a calendar a new version of their own, some at a time. */
    private void repin(CalendarName calendar, Edit edit) {
        int done = BATCH;
        while (done == BATCH) {
            Repinned repinned = instance.transact(tx -> repin(tx, calendar, edit));
            repinned.writer.committed();
            repinned.results.forEach(result -> instance.tell(
                    Event.Kind.DEFINED,
                    result.name(),
                    result.kind() + ", version " + result.version() + ", because calendar " + calendar + " changed"));
            done = repinned.results.size();
        }
    }

    private record Repinned(List<Defined> results, DefinitionWriter writer) {}

    private Repinned repin(Transaction tx, CalendarName calendar, Edit edit) {
        tx.lockDefinitions();
        CalendarRow newest =
                Objects.requireNonNull(tx.calendars(List.of(calendar)).get(calendar), calendar::toString);
        List<JobRow> rows = tx.lockJobsUsing(calendar, newest.number(), BATCH);
        Map<VersionKey, Job> jobs =
                tx.definitions(rows.stream().map(JobRow::versionKey).toList());
        DefinitionWriter writing = new DefinitionWriter(
                instance, tx, edit, CalendarsInForce.of(tx, jobs.values()), jobs, /* revised= */ true);
        for (JobRow row : rows) {
            Job job = jobs.get(row.versionKey());
            if (job == null) {
                instance.tellUnreadable(row.name().toString());
            } else {
                writing.change(row, job, row.source());
            }
        }
        writing.write();
        return new Repinned(writing.results, writing);
    }

    // Jobs.

    private static boolean isWritten(Defined result) {
        return result.kind() == Defined.Kind.NEW || result.kind() == Defined.Kind.CHANGED;
    }

    private List<Defined> defineBatch(List<Job> jobs, DefinitionSet set, Edit edit) {
        String source = set.source();
        List<Defined> seen = instance.transact(tx -> {
            Map<JobName, JobRow> rows = tx.findJobs(keys(jobs));
            return compare(tx, CalendarsInForce.resolve(jobs, CalendarsInForce.of(tx, jobs)), rows, set, edit);
        });
        if (seen.stream().noneMatch(Registrar::isWritten)) {
            return seen;
        }
        DefinitionWriter written = instance.transact(tx -> {
            tx.lockDefinitions();
            edit.check(tx, keys(jobs));
            FollowUpRules.check(tx, set);
            Map<JobName, JobRow> rows = tx.lockJobs(keys(jobs));
            Map<CalendarName, CalendarRow> calendars = CalendarsInForce.of(tx, jobs);
            List<Defined> results = compare(tx, CalendarsInForce.resolve(jobs, calendars), rows, set, edit);
            refuseWhatIsNotAllowed(tx, jobs, results);
            Map<VersionKey, Job> olds = tx.definitions(
                    rows.values().stream().map(JobRow::versionKey).toList());
            DefinitionWriter writing = new DefinitionWriter(
                    instance,
                    tx,
                    edit,
                    calendars,
                    olds,
                    set.revision().isPresent() || edit.built().isPresent());
            for (int i = 0; i < jobs.size(); i++) {
                if (results.get(i).kind() == Defined.Kind.NEW) {
                    writing.add(jobs.get(i), source);
                } else if (results.get(i).kind() == Defined.Kind.CHANGED) {
                    writing.change(Objects.requireNonNull(rows.get(jobs.get(i).name())), jobs.get(i), source);
                } else {
                    writing.results.add(results.get(i));
                }
            }
            writing.write();
            return writing;
        });
        written.committed();
        written.earliest().filter(instance::isSoon).ifPresent(due -> instance.call());
        written.tugged.forEach(key -> instance.tell(
                Event.Kind.PROBLEM,
                key,
                "goes back and forth between two definitions: it seems that two instances or files disagree"
                        + " (state a rising revision: in the file, so that the newer one wins)"));
        written.missing.forEach((key, names) -> instance.tell(
                Event.Kind.PROBLEM,
                key,
                "goes by calendar " + String.join(", ", names)
                        + ", which nobody has defined; until then its days count as usual"));
        return written.results;
    }

    private static List<JobName> keys(List<Job> jobs) {
        return jobs.stream().map(Job::name).toList();
    }

    /** Jobs that are followed by one that was renamed mean it under the name that it has now. */
    private static DefinitionSet followRenaming(Transaction tx, DefinitionSet set) {
        List<JobName> targets = set.jobs().stream()
                .flatMap(job -> job.followUps().stream())
                .map(FollowUp::job)
                .distinct()
                .toList();
        Map<JobName, JobRow> formerly = formerly(tx, targets, tx.findJobs(targets), set);
        if (formerly.isEmpty()) {
            return set;
        }
        List<Job> jobs = new ArrayList<>(set.jobs());
        formerly.forEach((from, row) ->
                jobs.replaceAll(job -> job.name().equals(from) ? job : job.afterRenaming(from, row.name())));
        return set.withJobs(jobs);
    }

    /** Jobs of this source under the names that they had, unless the set knows those that they have now. */
    private static Map<JobName, JobRow> formerly(
            Transaction tx, List<JobName> names, Map<JobName, JobRow> rows, DefinitionSet set) {
        List<JobName> unknown =
                names.stream().filter(key -> !rows.containsKey(key)).toList();
        Map<JobName, JobRow> formerly = unknown.isEmpty() ? Map.of() : new HashMap<>(tx.formerly(unknown));
        formerly.values()
                .removeIf(row -> !row.source().equals(set.source())
                        || set.jobs().stream().anyMatch(job -> job.name().equals(row.name())));
        return formerly;
    }

    private List<Defined> compare(
            Transaction tx, List<Job> jobs, Map<JobName, JobRow> rows, DefinitionSet set, Edit edit) {
        Map<VersionKey, Job> known =
                tx.definitions(rows.values().stream().map(JobRow::versionKey).toList());
        Map<Long, Instant> builds = edit.built().isEmpty() || set.revision().isPresent()
                ? Map.of()
                : tx.builds(rows.values().stream().map(JobRow::id).toList());
        Map<JobName, JobRow> formerly = formerly(tx, keys(jobs), rows, set);
        List<Defined> results = new ArrayList<>();
        for (Job job : jobs) {
            JobRow row = rows.get(job.name());
            if (formerly.containsKey(job.name())) {
                results.add(new Defined(
                        job.name(),
                        Defined.Kind.OUTDATED,
                        Objects.requireNonNull(formerly.get(job.name())).version()));
                continue;
            }
            if (row == null) {
                results.add(
                        set.writes() == DefinitionSet.Writes.KNOWN
                                ? new Defined(job.name(), Defined.Kind.NOT_THERE, 0)
                                : new Defined(job.name(), Defined.Kind.NEW, 1));
                continue;
            }
            if (set.writes() == DefinitionSet.Writes.NEW) {
                results.add(new Defined(job.name(), Defined.Kind.ALREADY_THERE, row.version()));
                continue;
            }
            Job before = known.get(row.versionKey());
            if (before == null) {
                instance.tellUnreadable(row.name().toString());
                results.add(new Defined(job.name(), Defined.Kind.OUTDATED, row.version()));
                continue;
            }
            boolean same = job.equals(before)
                    && job.calendars().equals(before.calendars())
                    && row.source().equals(set.source());
            Instant build = builds.get(row.id());
            boolean older = build != null && edit.built().filter(build::isAfter).isPresent();
            if (same) {
                results.add(new Defined(job.name(), Defined.Kind.UNCHANGED, row.version()));
            } else {
                results.add(
                        older
                                ? new Defined(job.name(), Defined.Kind.OUTDATED, row.version())
                                : new Defined(job.name(), Defined.Kind.CHANGED, row.version() + 1));
            }
        }
        return results;
    }

    /** Drops all jobs of a namespace, by name; returns how many. */
    public int dropAll(String namespace, Edit edit) {
        Pause.Scope.namespace(namespace);
        JobFilter some = JobFilter.first(BATCH).within(namespace);
        int dropped = 0;
        List<JobView> page = instance.store().history().jobs(some);
        while (!page.isEmpty()) {
            for (JobView job : page) {
                dropped += drop(job.name(), edit) ? 1 : 0;
            }
            page = instance.store()
                    .history()
                    .jobs(some.after(page.get(page.size() - 1).name()));
        }
        return dropped;
    }

    /**
     * Drops a job, if it is as the edit says that it was: it owes nothing from now on, its name becomes free, its history stays. Runs that wait
     * for the end of a pause are skipped, since nobody can end it any more; all others go on.
     *
     * @return whether there was such a job
     * @throws dev.brume.EditConflictException if it is not as it was
     */
    public boolean drop(JobName key, Edit edit) {
        Runnable[] written = new Runnable[1];
        boolean dropped = instance.transact(tx -> {
            tx.lockDefinitions();
            edit.check(tx, List.of(key));
            JobRow row = tx.lockJobs(List.of(key)).get(key);
            if (row == null) {
                return false;
            }
            Job old = tx.definitions(List.of(row.versionKey())).get(row.versionKey());
            if (old == null) {
                throw new BrumeException(
                        key + " goes by a definition that a newer version of Brume wrote, so what it owes"
                                + " up to now cannot be settled here; drop it with that version");
            }
            Gates gates = GateLocks.of(tx, List.of(old));
            Instant now = instance.trusted(tx.now());
            PlanWriter settled = PlanWriter.leasingNothing(instance, tx, gates, now);
            PauseTurns turns = new PauseTurns(instance, tx, now);
            JobRow standing = turns.upToNow(row, old, gates);
            settled.add(standing, old, PlanDecider.decideAll(old, standing, now, gates));
            settled.write();
            if (standing.paused()) {
                settled.skipWaiting(row, Reason.JOB_DROPPED);
            }
            tx.drop(row.id());
            tx.addChanges(List.of(new Change(
                    "DROPPED",
                    edit.who(),
                    edit.host(),
                    Optional.of(key),
                    Optional.of(row.version()),
                    Optional.empty(),
                    row.source(),
                    edit.because())));
            written[0] = () -> {
                turns.committed();
                settled.committed();
            };
            return true;
        });
        if (dropped) {
            written[0].run();
        }
        return dropped;
    }
}
