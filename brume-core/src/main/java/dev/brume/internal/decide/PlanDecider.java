package dev.brume.internal.decide;

import dev.brume.GateKey;
import dev.brume.IfBusy;
import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.Origin;
import dev.brume.Reason;
import dev.brume.history.AfterEnd;
import dev.brume.history.JobRow;
import dev.brume.history.PauseMark;
import dev.brume.history.Span;
import dev.brume.internal.decide.Plan.Decision;
import dev.brume.internal.decide.Plan.Verdict;
import dev.brume.internal.document.Unreadable;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.EverySchedule;
import dev.brume.schedule.Marks;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.OnceSchedule;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.Timeline;
import dev.brume.schedule.Union;
import dev.brume.schedule.WallClockSchedule;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Deque;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * Decides about all occurrences between a job's cursor and now.
 *
 * <p>Those within the tolerance are on time: each gets a run, or waits, or is skipped, as {@code
 * ifBusy} says. Of the late ones {@code ifMissed} picks the newest few to catch up with; the rest lie
 * in one span. At most {@value #MOST_AT_ONCE} on time are decided in one go, so that a batch of jobs stays a
 * batch however far behind they are. A catch-up that meets a full job waits, whatever {@code ifBusy} says: someone asked for
 * it to be made up.
 */
public final class PlanDecider {
    /** How many occurrences on time are decided in one go; a job that owes more is due again at once. */
    public static final int MOST_AT_ONCE = 1;

    /** How many shortest intervals are counted one by one in one go, or quarters of an hour by their marks: 20 ms or so. */
    private static final int MOST_COUNTED = 20_000;

    /** The same where all is decided in one go: about half a second. */
    private static final int MOST_COUNTED_IN_ALL = 500_000;

    private static final Duration LONGEST_STEP = Duration.ofDays(1);

    private final Job job;
    private final JobRow row;
    private final Instant now;

    /** Occurrences beyond it, exclusive, are not decided about yet. */
    private final Instant bound;

    /** Nothing before it is on time, however short ago it was: the job was paused. */
    private final Instant onTimeSince;

    private final int most;
    private final Gates gates;
    private final Reason reason;
    private final Optional<Occurrence> byEnd;
    private final Timeline owed;
    private final Deque<Occurrence> onTime = new ArrayDeque<>();
    private final Deque<Occurrence> late = new ArrayDeque<>();
    private final List<Decision> decisions = new ArrayList<>();
    private @Nullable Instant firstMissed;
    private @Nullable Instant lastMissed;
    private long missed;
    private int used;
    private int waiting;
    private boolean supersedes;

    private PlanDecider(
            Job job,
            JobRow row,
            Instant now,
            Instant bound,
            int most,
            Gates gates,
            Reason reason,
            Instant onTimeSince) {
        this.job = job;
        this.row = row;
        this.now = now;
        this.bound = bound;
        this.onTimeSince = onTimeSince;
        this.most = most;
        this.gates = gates;
        this.reason = reason;
        this.used = row.used();
        this.waiting = row.waiting();
        this.byEnd = row.afterEnd()
                .flatMap(AfterEnd::due)
                .flatMap(due -> job.byEnds()
                        .flatMap(schedule ->
                                OnceSchedule.at(due, schedule.zone()).occurrence()));
        this.owed = job.enabled() ? job.timeline() : Union.of(List.of());
    }

    /**
     * Decides, leaving what is beyond {@link #MOST_AT_ONCE} due.
     *
     * @param job the definition in force
     * @param row the job's row, locked
     * @param now the database's clock, inclusive
     * @param gates the job's shared gates, locked; what the plan takes of them is taken here
     */
    public static Plan decide(Job job, JobRow row, Instant now, Gates gates) {
        return new PlanDecider(job, row, now, now, MOST_AT_ONCE, gates, Reason.MISSED, Instant.MIN).plan();
    }

    /**
     * Decides everything owed before a pause begins or up to its end, in one go.
     *
     * @param row as it stood until then
     * @param last the last instant before the turn
     */
    public static Plan decideUntilTurn(Job job, JobRow row, Instant now, Instant last, Gates gates) {
        Reason reason = row.paused() ? Reason.PAUSED : Reason.MISSED;
        boolean asDefined = row.pause().state() == PauseMark.State.PAUSED;
        JobRow owing = asDefined ? row.with(PauseMark.NONE) : row;
        Instant onTimeSince =
                asDefined ? row.pause().turnsAt().filter(now::isAfter).orElse(now) : Instant.MIN;
        return settled(new PlanDecider(job, owing, now, last, Integer.MAX_VALUE, gates, reason, onTimeSince));
    }

    /**
     * Decides everything owed in one go, for a definition that is about to end. More than half a million occurrences that would have to be looked at
     * one by one lie in a span that says that nobody has counted them.
     */
    public static Plan decideAll(Job job, JobRow row, Instant now, Gates gates) {
        Reason reason = row.paused() ? Reason.PAUSED : Reason.MISSED;
        return settled(new PlanDecider(job, row, now, now, Integer.MAX_VALUE, gates, reason, Instant.MIN));
    }

    /** A definition that throws, or cannot be read, must still be one that can be changed, paused and dropped. */
    private static Plan settled(PlanDecider decider) {
        if (Unreadable.is(decider.job) || decider.takesTooLongToCount()) {
            return decider.uncounted();
        }
        try {
            return decider.plan();
        } catch (RuntimeException | StackOverflowError e) {
            return decider.uncounted();
        }
    }

    /** All that was owed up to now lies in one span that says that nobody could count it. */
    private Plan uncounted() {
        Instant first = row.cursor().plus(1, ChronoUnit.MICROS);
        Optional<Span> span = first.isAfter(bound)
                ? Optional.empty()
                : Optional.of(new Span(
                        row.id(),
                        row.version(),
                        first,
                        bound.plus(1, ChronoUnit.MICROS),
                        first,
                        bound,
                        1,
                        Reason.UNCOUNTED.name()));
        Instant cursor = first.isAfter(bound) ? row.cursor() : bound;
        return new Plan(
                List.of(), span, cursor, Optional.empty(), /* supersedes= */ false, Optional.empty(), Optional.empty());
    }

    /**
     * {@return whether a one-off of a job may start, taking its places of the gates if so; it waits for them otherwise, and for
     * the end of a pause}
     */
    public static Verdict admitOneOff(Job job, JobRow row, Gates gates, Instant now) {
        return row.pause().pausedAt(now) ? Verdict.HOLD : admitByHand(job, row, gates);
    }

    /**
     * {@return whether the run of a one-off with an exclusion key of its own may start}
     *
     * @param own all gates that it needs
     * @param passes whether those of the job that wait do so at keys of others, so that it overtakes none
     */
    public static Verdict admitKeyed(
            Job job, JobRow row, Gates gates, Collection<GateKey> own, boolean passes, Instant now) {
        boolean free = !row.pause().pausedAt(now)
                && (job.onEachInstance() || row.used() < job.ifBusy().places() && (row.waiting() == 0 || passes))
                && gates.open(own);
        if (free) {
            gates.take(own);
        }
        return free ? Verdict.START : Verdict.HOLD;
    }

    /** {@return whether a run that someone ordered may start; a pause does not concern it} */
    public static Verdict admitByHand(Job job, JobRow row, Gates gates) {
        PlanDecider decider =
                new PlanDecider(job, row, row.cursor(), row.cursor(), 1, gates, Reason.MISSED, Instant.MIN);
        return decider.mayStart() ? Verdict.START : Verdict.HOLD;
    }

    private Plan plan() {
        Instant decided = sortOwed();
        Instant cursor = decided.isAfter(row.cursor()) ? decided : row.cursor();
        chooseLate();
        late.forEach(occurrence -> admit(occurrence, Origin.CATCH_UP));
        onTime.forEach(occurrence -> admit(occurrence, Origin.SCHEDULE));
        Optional<Instant> due = byEnd.map(Occurrence::instant);
        if (due.isEmpty() || due.get().isAfter(cursor)) {
            return plan(cursor, next(cursor, due), Optional.empty(), Optional.empty());
        }
        if (decisionAt(due.get()).isEmpty() && !isMissed(due.get())) {
            admitByEnd(byEnd.get());
        }
        boolean runs = decisionAt(due.get())
                .filter(decision -> decision.verdict() != Verdict.SKIP)
                .isPresent();
        if (runs) {
            return plan(cursor, next(cursor, Optional.empty()), due, Optional.empty());
        }
        Optional<Instant> again =
                job.byEnds().flatMap(schedule -> schedule.afterEnd(now)).map(Occurrence::instant);
        AfterEnd after = again.map(AfterEnd::due).orElseGet(AfterEnd::over);
        return plan(cursor, next(cursor, again), Optional.empty(), Optional.of(after));
    }

    private Optional<Decision> decisionAt(Instant instant) {
        return decisions.stream()
                .filter(decision -> decision.occurrence().instant().equals(instant))
                .findFirst();
    }

    /** {@return whether an instant is one of those passed over together} */
    private boolean isMissed(Instant instant) {
        return firstMissed != null
                && lastMissed != null
                && !instant.isBefore(firstMissed)
                && !instant.isAfter(lastMissed)
                && owed.next(instant.minusNanos(1))
                        .filter(found -> found.instant().equals(instant))
                        .isPresent();
    }

    /** An occurrence that follows the end of a run never lies in a span: no rule can count it again. */
    private void admitByEnd(Occurrence occurrence) {
        boolean isLate =
                occurrence.instant().isBefore(later(now.minus(job.ifMissed().tolerance()), onTimeSince));
        if (row.paused() || isLate && job.ifMissed().choice() == IfMissed.Choice.SKIP) {
            decisions.add(new Decision(occurrence, Verdict.SKIP, Optional.of(reason), Origin.SCHEDULE));
        } else {
            admit(occurrence, isLate ? Origin.CATCH_UP : Origin.SCHEDULE);
        }
    }

    private Plan plan(
            Instant cursor, Optional<Instant> nextAt, Optional<Instant> endAwaited, Optional<AfterEnd> afterEnd) {
        return new Plan(List.copyOf(decisions), span(), cursor, nextAt, supersedes, endAwaited, afterEnd);
    }

    private Optional<Instant> next(Instant cursor, Optional<Instant> due) {
        return earlier(job.next(cursor).map(Occurrence::instant), due);
    }

    /** {@return the earlier of two instants that may be absent} */
    public static Optional<Instant> earlier(Optional<Instant> a, Optional<Instant> b) {
        return a.isPresent() && (b.isEmpty() || a.get().isBefore(b.get())) ? a : b;
    }

    /** {@return up to where everything owed has been looked at} Late ones are counted, not looked at one by one. */
    private Instant sortOwed() {
        Instant beyond = bound.plusNanos(1);
        Instant tolerated = later(now.minus(job.ifMissed().tolerance()), onTimeSince);
        Instant onTimeFrom = row.paused() || tolerated.isAfter(beyond) ? beyond : tolerated;
        int kept = Math.max(1, job.ifMissed().atMost());
        Optional<Occurrence> last = owed.previous(onTimeFrom);
        while (last.isPresent() && last.get().instant().isAfter(row.cursor()) && late.size() < kept) {
            late.addFirst(last.get());
            last = owed.previous(last.get().instant());
        }
        if (last.isPresent() && last.get().instant().isAfter(row.cursor())) {
            firstMissed = owed.next(row.cursor()).orElseThrow().instant();
            lastMissed = last.get().instant();
            Optional<Instant> counted = countedUntil(firstMissed).filter(lastMissed::isAfter);
            if (counted.isPresent()) {
                late.clear();
                lastMissed = owed.previous(counted.get()).orElseThrow().instant();
            }
            missed = owed.count(firstMissed, lastMissed.plusNanos(1));
            if (counted.isPresent()) {
                return lastMissed;
            }
        }
        Instant from = onTimeFrom.minusNanos(1).isAfter(row.cursor()) ? onTimeFrom.minusNanos(1) : row.cursor();
        Optional<Occurrence> next = owed.next(from);
        while (next.isPresent() && !next.get().instant().isAfter(bound)) {
            onTime.addLast(next.get());
            if (onTime.size() == most) {
                return next.get().instant();
            }
            next = owed.next(next.get().instant());
        }
        return bound;
    }

    private static Instant later(Instant a, Instant b) {
        return a.isAfter(b) ? a : b;
    }

    /**
     * Up to when missed occurrences are counted in one go where they have to be looked at one by one, so that an outage of years
     * keeps no batch of other jobs waiting: the job is due again at once, and its spans lie end to end. Empty where counting is
     * arithmetic, or all is to be decided whatever it takes.
     */
    private Optional<Instant> countedUntil(Instant first) {
        return isQuicklyCounted() || most == Integer.MAX_VALUE
                ? Optional.empty()
                : Optional.of(first.plus(stepOfCounting().multipliedBy(MOST_COUNTED)));
    }

    private boolean isQuicklyCounted() {
        List<Schedule> schedules = job.schedules();
        return schedules.stream().allMatch(EverySchedule.class::isInstance)
                || schedules.size() == 1 && schedules.get(0) instanceof CronSchedule;
    }

    /** The stretch that is looked at each time: a quarter of an hour of every schedule, or one occurrence. */
    private Duration stepOfCounting() {
        boolean byQuarters = job.schedules().stream()
                .allMatch(schedule -> schedule instanceof WallClockSchedule clock
                        && clock.clock().times().isQuicklyCounted());
        Duration quarter =
                Duration.ofSeconds(Marks.SECONDS).dividedBy(job.schedules().size());
        return byQuarters && quarter.compareTo(shortestInterval()) > 0 ? quarter : shortestInterval();
    }

    private Duration shortestInterval() {
        return job.schedules().stream()
                .map(Schedule::smallestInterval)
                .filter(interval -> interval.compareTo(LONGEST_STEP) < 0)
                .min(Duration::compareTo)
                .orElse(LONGEST_STEP);
    }

    /** Whether all that is owed, decided in one go, could keep others waiting for longer than a part of a second. */
    private boolean takesTooLongToCount() {
        return !isQuicklyCounted()
                && row.cursor()
                        .plus(stepOfCounting().multipliedBy(MOST_COUNTED_IN_ALL))
                        .isBefore(bound);
    }

    private void chooseLate() {
        IfMissed policy = job.ifMissed();
        boolean none = row.paused()
                || policy.choice() == IfMissed.Choice.SKIP
                || policy.choice() == IfMissed.Choice.RUN_LATEST && !onTime.isEmpty();
        Optional<Instant> oldest = policy.oldest().map(now::minus);
        while (!late.isEmpty()
                && (none || oldest.filter(late.getFirst().instant()::isBefore).isPresent())) {
            miss(late.removeFirst());
        }
    }

    private void miss(Occurrence occurrence) {
        firstMissed = firstMissed == null ? occurrence.instant() : firstMissed;
        lastMissed = occurrence.instant();
        missed++;
    }

    private Optional<Span> span() {
        if (firstMissed == null || lastMissed == null) {
            return Optional.empty();
        }
        Instant until = lastMissed.plus(1, ChronoUnit.MICROS);
        return Optional.of(
                new Span(row.id(), row.version(), firstMissed, until, firstMissed, lastMissed, missed, reason.name()));
    }

    private void admit(Occurrence occurrence, Origin origin) {
        IfBusy policy = job.ifBusy();
        if (isTooLate(job, occurrence.instant(), now)) {
            decisions.add(new Decision(occurrence, Verdict.SKIP, Optional.of(Reason.TOO_LATE), origin));
        } else if (mayStart()) {
            used += job.onEachInstance() ? 0 : 1;
            decisions.add(new Decision(occurrence, Verdict.START, Optional.empty(), origin));
        } else if (policy.choice() == IfBusy.Choice.SUPERSEDE) {
            waiting++;
            supersedes |= used + waiting > 1;
            decisions.add(new Decision(occurrence, Verdict.HOLD, Optional.empty(), origin));
        } else if (origin == Origin.CATCH_UP
                || onlyLimitsAreFull()
                || policy.choice() == IfBusy.Choice.WAIT && waiting < policy.bound()) {
            waiting++;
            decisions.add(new Decision(occurrence, Verdict.HOLD, Optional.empty(), origin));
        } else {
            Reason reason = policy.choice() == IfBusy.Choice.WAIT ? Reason.TOO_MANY_WAITING : Reason.BUSY;
            decisions.add(new Decision(occurrence, Verdict.SKIP, Optional.of(reason), origin));
        }
    }

    /** {@return whether a run of a job may not begin any more} */
    public static boolean isTooLate(Job job, Instant planned, Instant now) {
        return job.startWithin()
                .filter(limit -> !planned.plus(limit).isAfter(now))
                .isPresent();
    }

    /**
     * Takes the shared gates if all places are free; nothing overtakes an earlier run of the job that waits. What is owed by
     * each instance is decided for each by itself, when they are known.
     */
    private boolean mayStart() {
        if (job.onEachInstance()) {
            return true;
        }
        boolean free = used < job.ifBusy().places() && waiting == 0 && gates.open(job.gates());
        if (free) {
            gates.take(job.gates());
        }
        return free;
    }

    /** A full limit is like a want of workers: no overlap, so an occurrence waits for it. */
    private boolean onlyLimitsAreFull() {
        return used + waiting < job.ifBusy().places()
                && !job.gates(GateKey.Kind.LIMIT).isEmpty()
                && gates.open(job.gates(GateKey.Kind.EXCLUSIVE));
    }
}
