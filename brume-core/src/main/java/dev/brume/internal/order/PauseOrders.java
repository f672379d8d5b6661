package dev.brume.internal.order;

import dev.brume.CalendarName;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.NotThereException;
import dev.brume.PauseChange;
import dev.brume.PauseOrder;
import dev.brume.history.Change;
import dev.brume.history.JobRow;
import dev.brume.history.Pause;
import dev.brume.history.PauseMark;
import dev.brume.history.VersionKey;
import dev.brume.internal.decide.Gates;
import dev.brume.internal.decide.PlanDecider;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.plan.PauseTurns;
import dev.brume.internal.plan.PlanWriter;
import dev.brume.internal.run.GateLocks;
import dev.brume.internal.run.Waiters;
import dev.brume.spi.Transaction;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;

/**
 * Takes the orders to pause jobs and to resume them.
 *
 * <p>A paused job owes nothing: what its schedules name meanwhile is decided when it goes on, as its policy for missed
 * occurrences or the pause says, and what is not made up for is one span that says so. Its one-offs wait. Runs that there are
 * already go on. A pause that begins later, or ends by itself, is marked in the jobs that it covers, so that whoever decides
 * about one then knows it under the job's lock; see {@link PauseTurns}. Many jobs are taken some at a time; whoever is cut off gives the order again.
 */
public final class PauseOrders {
    private static final int BATCH = 500;

    private final Instance instance;
    private final Waiters waiters;
    private final Orderer orderer;

    /** Creates the step for someone who gives orders. */
    public PauseOrders(Instance instance, Orderer orderer) {
        this.instance = instance;
        this.waiters = new Waiters(instance);
        this.orderer = orderer;
    }

    private Change change(String kind, Pause.Scope scope, String more) {
        return orderer.change(kind, Optional.empty(), scope + more);
    }

    /**
     * Pauses jobs, now or later.
     *
     * @throws IllegalArgumentException if the one job meant is not there, or the pause would be over by now
     */
    public PauseChange pause(PauseOrder order) {
        boolean[] isPlanned = new boolean[1];
        boolean ordered = instance.transact(tx -> {
            tx.lockDefinitions();
            check(tx, order.scope());
            Instant now = instance.trusted(tx.now());
            List<Pause> wanted = pauses(tx, order, now);
            isPlanned[0] = wanted.stream().noneMatch(pause -> pause.isInForce(now));
            return write(tx, order.scope(), order.days(), wanted, now);
        });
        return new PauseChange(ordered, eachBatch(order.scope(), isPlanned[0] ? Counts.COVERED : Counts.PAUSED));
    }

    private List<Pause> pauses(Transaction tx, PauseOrder order, Instant now) {
        if (order.days().isPresent()) {
            return PauseDays.of(tx, order.days().get(), now).stream()
                    .map(days -> pause(order, days.since(), Optional.of(days.until())))
                    .toList();
        }
        refusePast("begin", order.from(), now);
        refusePast("end", order.until(), now);
        return List.of(pause(order, order.from().orElse(now), order.until()));
    }

    private static void refusePast(String which, Optional<Instant> given, Instant now) {
        if (given.filter(at -> !at.isAfter(now)).isPresent()) {
            throw new IllegalArgumentException("the pause would " + which + " at " + given.get()
                    + ", which lies behind (it is " + now + "); leave it out to pause from now on, or until resumed");
        }
    }

    private Pause pause(PauseOrder order, Instant since, Optional<Instant> until) {
        return new Pause(order.scope(), since, until, order.owed(), orderer.who(), orderer.because(), order.days());
    }

    /** What is covered already is not written again; what a calendar's days brought before and do not any more is taken back. */
    private boolean write(
            Transaction tx, Pause.Scope scope, Optional<Pause.Days> days, List<Pause> wanted, Instant now) {
        boolean other = days.isPresent() && !times(wanted, now).equals(times(planned(tx, scope, days, now), now));
        int takenBack = other ? tx.orders().takeBackPauses(scope, days, now) : 0;
        List<Pause> there = tx.orders().pauses();
        List<Pause> added = wanted.stream()
                .filter(pause -> there.stream().noneMatch(known -> !known.isOver(now) && known.includes(pause)))
                .toList();
        added.forEach(tx.orders()::addPause);
        if (!added.isEmpty()) {
            tx.addChanges(List.of(change("PAUSED", scope, describe(added, now))));
        }
        return !added.isEmpty() || takenBack > 0;
    }

    private static List<Pause> planned(Transaction tx, Pause.Scope scope, Optional<Pause.Days> days, Instant now) {
        return tx.orders().pauses().stream()
                .filter(pause -> pause.scope().equals(scope)
                        && pause.days().equals(days)
                        && pause.since().isAfter(now))
                .toList();
    }

    /** When those that are to come begin and end, and what becomes of what is owed. */
    private static Set<List<Object>> times(List<Pause> pauses, Instant now) {
        return pauses.stream()
                .filter(pause -> pause.since().isAfter(now))
                .map(pause -> List.<Object>of(pause.since(), pause.until(), pause.owed()))
                .collect(Collectors.toSet());
    }

    private static String describe(List<Pause> added, Instant now) {
        Pause first = added.get(0);
        Pause last = added.get(added.size() - 1);
        String from = first.since().isAfter(now) ? ", from " + first.since() : "";
        String until = last.until().map(end -> ", until " + end).orElse("");
        String days = first.days()
                .map(each -> ", on the days of calendar " + each + ", " + added.size()
                        + (added.size() == 1 ? " stretch" : " stretches"))
                .orElse("");
        return from
                + until
                + days
                + (first.owed() == Pause.Owed.LEFT_OUT ? ", what is owed meanwhile is left out" : "");
    }

    /** Follows a calendar that was defined anew with the pauses that were made of its days and have not all begun. */
    public void follow(CalendarName calendar) {
        Set<Pause.Scope> scopes = instance.transact(tx -> {
            tx.lockDefinitions();
            Instant now = instance.trusted(tx.now());
            Map<PauseOrder, Pause> orders = new LinkedHashMap<>();
            tx.orders()
                    .pauses()
                    .forEach(pause -> pause.days()
                            .filter(days -> days.calendar().equals(calendar)
                                    && pause.since().isAfter(now))
                            .ifPresent(days -> orders.put(
                                    new PauseOrder(
                                            pause.scope(),
                                            Optional.empty(),
                                            Optional.empty(),
                                            pause.owed(),
                                            Optional.of(days)),
                                    pause)));
            return orders.entrySet().stream()
                    .filter(each -> write(
                            tx,
                            each.getKey().scope(),
                            each.getKey().days(),
                            wanted(tx, each.getKey(), each.getValue(), now),
                            now))
                    .map(each -> each.getKey().scope())
                    .collect(Collectors.toCollection(LinkedHashSet::new));
        });
        scopes.forEach(scope -> eachBatch(scope, Counts.COVERED));
    }

    /** Whoever changes the calendar did not order the pause, and is not refused for it. */
    private List<Pause> wanted(Transaction tx, PauseOrder order, Pause before, Instant now) {
        Pause.Days which = order.days().orElseThrow();
        try {
            return PauseDays.of(tx, which, now).stream()
                    .map(days -> new Pause(
                            order.scope(),
                            days.since(),
                            Optional.of(days.until()),
                            order.owed(),
                            before.who(),
                            before.because(),
                            order.days()))
                    .toList();
        } catch (IllegalArgumentException e) {
            instance.tellProblem("the pauses of " + order.scope() + " that were made of " + which.calendar()
                    + " are taken back: " + e.getMessage());
            return List.of();
        }
    }

    /**
     * Resumes jobs that no other pause covers.
     *
     * @throws IllegalArgumentException if the one job meant is not there
     */
    public PauseChange resume(Pause.Scope scope) {
        boolean ordered = instance.transact(tx -> {
            tx.lockDefinitions();
            check(tx, scope);
            boolean ended = tx.orders().endPauses(scope, instance.trusted(tx.now())) > 0;
            if (ended) {
                tx.addChanges(List.of(change("RESUMED", scope, "")));
            }
            return ended;
        });
        int jobs = eachBatch(scope, Counts.GOING_ON);
        if (jobs > 0) {
            instance.call();
        }
        return new PauseChange(ordered, jobs);
    }

    /**
     * Takes back the pauses that are planned and have not begun.
     *
     * @return how many
     * @throws IllegalArgumentException if the one job meant is not there
     */
    public int takeBack(Pause.Scope scope) {
        int takenBack = instance.transact(tx -> {
            tx.lockDefinitions();
            check(tx, scope);
            int count = tx.orders().takeBackPauses(scope, Optional.empty(), instance.trusted(tx.now()));
            if (count > 0) {
                tx.addChanges(List.of(change("RESUMED", scope, ", " + count + " planned, taken back")));
            }
            return count;
        });
        eachBatch(scope, Counts.COVERED);
        return takenBack;
    }

    private static void check(Transaction tx, Pause.Scope scope) {
        if (scope.kind() == Pause.Kind.JOB) {
            JobName key = JobName.parse(scope.name());
            if (!tx.findJobs(List.of(key)).containsKey(key)) {
                throw NotThereException.ofJob(key, "");
            }
        }
    }

    /** Which of the jobs looked at are counted. */
    private enum Counts {
        /** Those that were not paused, and are. */
        PAUSED,
        /** Those that were paused, and are not. */
        GOING_ON,
        /** All that the scope covers. */
        COVERED
    }

    private record Batch(int seen, long last, int counted, Runnable committed) {}

    private int eachBatch(Pause.Scope scope, Counts counts) {
        long after = 0;
        int all = 0;
        while (true) {
            long from = after;
            Batch batch = instance.transact(tx -> batch(tx, lock(tx, scope, from), scope, counts));
            batch.committed.run();
            all += batch.counted;
            if (batch.seen < BATCH) {
                return all;
            }
            after = batch.last;
        }
    }

    /** One job is found by its key; which carry a tag, only their definitions tell. */
    private static List<JobRow> lock(Transaction tx, Pause.Scope scope, long after) {
        return scope.kind() == Pause.Kind.JOB
                ? List.copyOf(tx.lockJobs(List.of(JobName.parse(scope.name()))).values())
                : tx.lockJobsAfter(after, BATCH);
    }

    private Batch batch(Transaction tx, List<JobRow> rows, Pause.Scope scope, Counts counts) {
        if (rows.isEmpty()) {
            return new Batch(0, 0, 0, () -> {});
        }
        Map<VersionKey, Job> definitions =
                tx.definitions(rows.stream().map(JobRow::versionKey).toList());
        Map<JobRow, Job> covered = new LinkedHashMap<>();
        for (JobRow row : rows) {
            Job job = definitions.get(row.versionKey());
            if (job == null) {
                instance.tellUnreadable(row.name().toString());
            } else if (scope.covers(job.name(), job.tags())) {
                covered.put(row, job);
            }
        }
        long last = rows.get(rows.size() - 1).id();
        int[] counted = {counts == Counts.COVERED ? covered.size() : 0};
        List<Pause> pauses = tx.orders().pauses();
        Gates gates = GateLocks.of(tx, covered.values());
        Instant now = instance.trusted(tx.now());
        PauseTurns turns = new PauseTurns(instance, tx, now);
        PlanWriter writer = PlanWriter.leasingNothing(instance, tx, gates, now);
        Map<Long, PauseMark> marks = new TreeMap<>();
        List<Long> goingOn = new ArrayList<>();
        covered.forEach((before, job) -> {
            JobRow row = turns.upToNow(before, job, gates);
            PauseMark mark = PauseMark.of(Pause.covering(pauses, job), now);
            if (mark.equals(row.pause())) {
                return;
            }
            marks.put(row.id(), mark);
            counted[0] += counts == Counts.PAUSED && mark.paused() && !row.paused() ? 1 : 0;
            if (!mark.paused()) {
                goingOn.add(row.id());
                counted[0] += counts == Counts.GOING_ON && row.paused() ? 1 : 0;
            }
            if (!mark.paused() || !row.paused()) {
                writer.add(row.with(mark), job, PlanDecider.decideUntilTurn(job, row, now, now, gates));
            }
        });
        tx.orders().mark(marks);
        writer.write();
        waiters.lookAt(tx, goingOn);
        return new Batch(rows.size(), last, counted[0], () -> {
            turns.committed();
            writer.committed();
            waiters.committed();
        });
    }
}
