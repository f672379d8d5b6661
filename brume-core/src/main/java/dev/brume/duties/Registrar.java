package dev.brume.duties;

import dev.brume.BrumeException;
import dev.brume.CalendarKey;
import dev.brume.Defined;
import dev.brume.DefinitionSet;
import dev.brume.Event;
import dev.brume.Job;
import dev.brume.JobKey;
import dev.brume.decide.Gates;
import dev.brume.decide.Pinning;
import dev.brume.decide.Plan;
import dev.brume.decide.PlanDecider;
import dev.brume.port.AfterEnd;
import dev.brume.port.CalendarRow;
import dev.brume.port.Change;
import dev.brume.port.JobRow;
import dev.brume.port.NewJob;
import dev.brume.port.Pause;
import dev.brume.port.Pins;
import dev.brume.port.Redefinition;
import dev.brume.port.Transaction;
import dev.brume.port.VersionKey;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.Occurrence;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.IntStream;
import java.util.stream.Stream;

/**
 * Puts definitions and calendars in force.
 *
 * <p>A changed definition first settles what the old one owed up to now; the new one holds from that instant on,
 * inclusive. What did not change is found out without locking or writing anything. A changed calendar is a new version
 * of every job that goes by it.
 */
public final class Registrar {
    private static final int BATCH = 1000;

    private final Instance instance;
    private final Revisions revisions;
    private final GateDefinitions gates;

    /** Creates the registrar. */
    public Registrar(Instance instance) {
        this.instance = instance;
        this.revisions = new Revisions(instance);
        this.gates = new GateDefinitions(instance);
    }

    /**
     * Puts definitions in force.
     *
     * @param who orders it
     * @return what became of the jobs, in their order
     * @throws IllegalArgumentException if a job names a limit that is not defined, or is followed by one that is not or that
     *     leads back to it
     */
    public List<Defined> define(DefinitionSet set, String who) {
        if (!revisions.admit(set, who)) {
            return set.jobs().stream()
                    .map(job -> new Defined(job.key(), Defined.Kind.OUTDATED, 0))
                    .toList();
        }
        if (set.jobs().stream().anyMatch(job -> !job.followUps().isEmpty())) {
            instance.transact(tx -> {
                FollowUpRules.check(tx, set);
                return null;
            });
        }
        gates.define(set, who);
        defineCalendars(set.calendars(), set.source(), who);
        List<Defined> results = new ArrayList<>();
        for (int from = 0; from < set.jobs().size(); from += BATCH) {
            List<Job> batch =
                    set.jobs().subList(from, Math.min(from + BATCH, set.jobs().size()));
            results.addAll(defineBatch(batch, set, who));
        }
        results.stream()
                .filter(Registrar::isWritten)
                .forEach(result -> instance.tell(
                        Event.Kind.DEFINED, result.key(), result.kind() + ", version " + result.version()));
        return results;
    }

    // Calendars.

    private void defineCalendars(Map<CalendarKey, DayCalendar> calendars, String source, String who) {
        if (calendars.isEmpty()) {
            return;
        }
        Map<CalendarKey, CalendarRow> known = instance.transact(tx -> tx.calendars(calendars.keySet()));
        boolean changed = calendars.entrySet().stream().anyMatch(given -> isNew(given, known));
        if (changed) {
            instance.transact(tx -> addCalendars(tx, calendars, source, who))
                    .forEach(row ->
                            instance.tell(Event.Kind.DEFINED, "calendar " + row.key() + ", version " + row.number()));
        }
        calendars.keySet().forEach(key -> repin(key, who));
    }

    private static boolean isNew(Map.Entry<CalendarKey, DayCalendar> given, Map<CalendarKey, CalendarRow> known) {
        CalendarRow row = known.get(given.getKey());
        return row == null || !row.days().equals(given.getValue());
    }

    private List<CalendarRow> addCalendars(
            Transaction tx, Map<CalendarKey, DayCalendar> calendars, String source, String who) {
        tx.lockDefinitions();
        Map<CalendarKey, CalendarRow> known = tx.calendars(calendars.keySet());
        List<CalendarRow> added = new ArrayList<>();
        List<Change> changes = new ArrayList<>();
        calendars.entrySet().stream().filter(given -> isNew(given, known)).forEach(given -> {
            Optional<Integer> before =
                    Optional.ofNullable(known.get(given.getKey())).map(CalendarRow::number);
            int number = before.orElse(0) + 1;
            added.add(new CalendarRow(given.getKey(), number, given.getValue(), source));
            changes.add(new Change(
                    "CALENDAR_DEFINED",
                    who,
                    instance.settings().host(),
                    Optional.empty(),
                    before,
                    Optional.of(number),
                    given.getKey() + " from " + source));
        });
        if (!added.isEmpty()) {
            tx.addCalendars(added);
            tx.addChanges(changes);
        }
        return added;
    }

    /** Gives the jobs that go by an older version of a calendar a new version of their own, some at a time. */
    private void repin(CalendarKey calendar, String who) {
        int done = BATCH;
        while (done == BATCH) {
            Repinned repinned = instance.transact(tx -> repin(tx, calendar, who));
            repinned.plans.committed();
            repinned.results.forEach(result -> instance.tell(
                    Event.Kind.DEFINED,
                    result.key(),
                    result.kind() + ", version " + result.version() + ", because calendar " + calendar + " changed"));
            done = repinned.results.size();
        }
    }

    private record Repinned(List<Defined> results, PlanWriter plans) {}

    private Repinned repin(Transaction tx, CalendarKey calendar, String who) {
        tx.lockDefinitions();
        CalendarRow newest = tx.calendars(List.of(calendar)).get(calendar);
        List<JobRow> rows = tx.lockJobsUsing(calendar, newest.number(), BATCH);
        Map<VersionKey, Job> jobs =
                tx.definitions(rows.stream().map(JobRow::versionKey).toList());
        Writing writing = new Writing(tx, who, calendarsOf(tx, jobs.values()), jobs, /* revised= */ true);
        for (JobRow row : rows) {
            Job job = jobs.get(row.versionKey());
            if (job == null) {
                instance.tellUnreadable(row.key().toString());
            } else {
                writing.change(row, job, row.source());
            }
        }
        writing.write();
        return new Repinned(writing.results, writing.plans);
    }

    // Jobs.

    private static boolean isWritten(Defined result) {
        return result.kind() == Defined.Kind.NEW || result.kind() == Defined.Kind.CHANGED;
    }

    private List<Defined> defineBatch(List<Job> jobs, DefinitionSet set, String who) {
        String source = set.source();
        List<Defined> seen = instance.transact(tx -> {
            Map<JobKey, JobRow> rows = tx.findJobs(keys(jobs));
            return compare(tx, resolve(jobs, calendarsOf(tx, jobs)), rows, source);
        });
        if (seen.stream().noneMatch(Registrar::isWritten)) {
            return seen;
        }
        Writing written = instance.transact(tx -> {
            tx.lockDefinitions();
            FollowUpRules.check(tx, set);
            Map<JobKey, JobRow> rows = tx.lockJobs(keys(jobs));
            Map<CalendarKey, CalendarRow> calendars = calendarsOf(tx, jobs);
            List<Defined> results = compare(tx, resolve(jobs, calendars), rows, source);
            Map<VersionKey, Job> olds = tx.definitions(
                    rows.values().stream().map(JobRow::versionKey).toList());
            Writing writing =
                    new Writing(tx, who, calendars, olds, set.revision().isPresent());
            for (int i = 0; i < jobs.size(); i++) {
                if (results.get(i).kind() == Defined.Kind.NEW) {
                    writing.add(jobs.get(i), source);
                } else if (results.get(i).kind() == Defined.Kind.CHANGED) {
                    writing.change(rows.get(jobs.get(i).key()), jobs.get(i), source);
                } else {
                    writing.results.add(results.get(i));
                }
            }
            writing.write();
            return writing;
        });
        written.plans.committed();
        instance.callIfDueSoon(written.earliest());
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

    private static List<JobKey> keys(List<Job> jobs) {
        return jobs.stream().map(Job::key).toList();
    }

    /** The jobs with the newest versions of their calendars. */
    private static List<Job> resolve(List<Job> jobs, Map<CalendarKey, CalendarRow> rows) {
        return jobs.stream().map(job -> job.withCalendars(daysOf(job, rows))).toList();
    }

    private static Map<CalendarKey, CalendarRow> calendarsOf(Transaction tx, Collection<Job> jobs) {
        Set<CalendarKey> keys = new LinkedHashSet<>();
        jobs.forEach(job -> job.calendars().forEach(calendar -> keys.add(keyOf(job, calendar))));
        return keys.isEmpty() ? Map.of() : tx.calendars(keys);
    }

    private static CalendarKey keyOf(Job job, DayCalendar calendar) {
        return new CalendarKey(job.key().namespace(), calendar.name());
    }

    private static Map<String, DayCalendar> daysOf(Job job, Map<CalendarKey, CalendarRow> rows) {
        Map<String, DayCalendar> days = new LinkedHashMap<>();
        job.calendars().forEach(calendar -> {
            CalendarRow row = rows.get(keyOf(job, calendar));
            if (row != null) {
                days.put(calendar.name(), row.days());
            }
        });
        return days;
    }

    private List<Defined> compare(Transaction tx, List<Job> jobs, Map<JobKey, JobRow> rows, String source) {
        Map<VersionKey, Job> known =
                tx.definitions(rows.values().stream().map(JobRow::versionKey).toList());
        List<Defined> results = new ArrayList<>();
        for (Job job : jobs) {
            JobRow row = rows.get(job.key());
            if (row == null) {
                results.add(new Defined(job.key(), Defined.Kind.NEW, 1));
                continue;
            }
            Job before = known.get(row.versionKey());
            if (before == null) {
                instance.tellUnreadable(row.key().toString());
                results.add(new Defined(job.key(), Defined.Kind.OUTDATED, row.version()));
                continue;
            }
            boolean same = job.equals(before)
                    && job.calendars().equals(before.calendars())
                    && row.source().equals(source);
            results.add(
                    same
                            ? new Defined(job.key(), Defined.Kind.UNCHANGED, row.version())
                            : new Defined(job.key(), Defined.Kind.CHANGED, row.version() + 1));
        }
        return results;
    }

    /** New and changed jobs of one transaction. */
    private final class Writing {
        private final Transaction tx;
        private final String who;
        private final Map<CalendarKey, CalendarRow> calendars;
        private final Instant decided;
        private final Map<VersionKey, Job> olds;
        private final boolean revised;
        private final Gates gates;
        private final PlanWriter plans;
        private final List<JobKey> tugged = new ArrayList<>();
        private final List<NewJob> added = new ArrayList<>();
        private final List<Changed> changed = new ArrayList<>();
        private final List<Redefinition> redefined = new ArrayList<>();
        private final List<Change> changes = new ArrayList<>();
        private final List<Defined> results = new ArrayList<>();
        private final Map<JobKey, List<String>> missing = new LinkedHashMap<>();

        private record Changed(JobRow row, Job job, Pins pins, String source, Instant decided) {}

        /**
         * Begins.
         *
         * @param olds the definitions in force of all jobs that may change, which are locked
         * @param revised whether the order of edits is certain
         */
        Writing(
                Transaction tx,
                String who,
                Map<CalendarKey, CalendarRow> calendars,
                Map<VersionKey, Job> olds,
                boolean revised) {
            this.tx = tx;
            this.who = who;
            this.calendars = calendars;
            this.olds = olds;
            this.revised = revised;
            this.gates = GateLocks.of(tx, olds.values());
            Instant now = instance.trusted(tx.now());
            this.decided = now.minus(1, ChronoUnit.MICROS);
            this.plans = PlanWriter.leasingNothing(instance, tx, gates, now);
        }

        void add(Job job, String source) {
            Pins pins = pins(job, Optional.empty(), decided);
            Job pinned = pinned(job, pins);
            Optional<Instant> first = firstByEnds(pinned, decided);
            Optional<Instant> nextAt = PlanDecider.earlier(pinned.next(decided).map(Occurrence::instant), first);
            added.add(new NewJob(pinned, pins, source, decided, nextAt, first.map(AfterEnd::due)));
            changes.add(change("DEFINED", job.key(), Optional.empty(), Optional.of(1), source));
            results.add(new Defined(job.key(), Defined.Kind.NEW, 1));
        }

        void change(JobRow row, Job job, String source) {
            Job old = olds.get(row.versionKey());
            Plan last = PlanDecider.decideAll(old, row, decided, gates);
            plans.add(row, old, last);
            if (!revised && goesBackAndForth(row, old, job)) {
                tugged.add(row.key());
            }
            changed.add(new Changed(row, job, pins(job, Optional.of(old), last.cursor()), source, last.cursor()));
            changes.add(
                    change("CHANGED", job.key(), Optional.of(row.version()), Optional.of(row.version() + 1), source));
            results.add(new Defined(job.key(), Defined.Kind.CHANGED, row.version() + 1));
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
                CalendarRow row = calendars.get(keyOf(job, calendar));
                numbers.put(calendar.name(), row == null ? 0 : row.number());
                if (row == null) {
                    missing.computeIfAbsent(job.key(), key -> new ArrayList<>()).add(calendar.name());
                }
            }
            Job resolved = job.withCalendars(daysOf(job, calendars));
            Instant from = settled.plus(1, ChronoUnit.MICROS);
            return Pinning.of(
                    resolved, numbers, before, from, instance.settings().tzdata());
        }

        private Job pinned(Job job, Pins pins) {
            return pins.apply(job, daysOf(job, calendars));
        }

        private Optional<Instant> firstByEnds(Job job, Instant settled) {
            Instant from = settled.plus(1, ChronoUnit.MICROS);
            return job.byEnds().flatMap(schedule -> schedule.firstByEnds(from)).map(Occurrence::instant);
        }

        void write() {
            plans.write();
            List<Pause> pauses = tx.orders().pauses();
            if (!added.isEmpty()) {
                List<Long> ids = tx.addJobs(added);
                pause(pauses, added.stream().map(NewJob::job).toList(), ids, /* paused= */ false);
            }
            if (!changed.isEmpty()) {
                for (Changed change : changed) {
                    pause(pauses, List.of(change.job), List.of(change.row.id()), change.row.paused());
                }
                redefined.addAll(changed.stream().map(this::redefinition).toList());
                tx.redefine(redefined);
            }
            tx.addChanges(changes);
        }

        /** Puts jobs under the pauses that cover them, and takes them from under those that do not any more. */
        private void pause(List<Pause> pauses, List<Job> jobs, List<Long> ids, boolean paused) {
            List<Long> differing = IntStream.range(0, ids.size())
                    .filter(i -> PauseOrders.covers(pauses, jobs.get(i)) != paused)
                    .mapToObj(ids::get)
                    .toList();
            if (!differing.isEmpty()) {
                tx.orders().setPaused(differing, !paused);
            }
        }

        /** Returns when the first of what was written is due. */
        Optional<Instant> earliest() {
            return Stream.concat(
                            added.stream().map(NewJob::nextAt),
                            redefined.stream().map(Redefinition::nextAt))
                    .flatMap(Optional::stream)
                    .min(Instant::compareTo);
        }

        /** What the old version has decided is decided, even where the clock was put back since. */
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

        private Change change(
                String kind, JobKey key, Optional<Integer> before, Optional<Integer> after, String source) {
            return new Change(kind, who, instance.settings().host(), Optional.of(key), before, after, source);
        }
    }

    /**
     * Drops a job: it owes nothing from now on, its name becomes free, its history stays.
     *
     * @return whether there was such a job
     */
    public boolean drop(JobKey key, String who) {
        PlanWriter[] written = new PlanWriter[1];
        boolean dropped = instance.transact(tx -> {
            tx.lockDefinitions();
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
            settled.add(row, old, PlanDecider.decideAll(old, row, now, gates));
            settled.write();
            tx.drop(row.id());
            tx.addChanges(List.of(new Change(
                    "DROPPED",
                    who,
                    instance.settings().host(),
                    Optional.of(key),
                    Optional.of(row.version()),
                    Optional.empty(),
                    row.source())));
            written[0] = settled;
            return true;
        });
        if (dropped) {
            written[0].committed();
        }
        return dropped;
    }
}
