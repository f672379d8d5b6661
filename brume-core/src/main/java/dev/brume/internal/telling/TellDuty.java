package dev.brume.internal.telling;

import dev.brume.Attempt;
import dev.brume.CalendarName;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.StoreException;
import dev.brume.history.CauseRow;
import dev.brume.history.JobRow;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.history.VersionKey;
import dev.brume.internal.duty.Duty;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.notice.Happened;
import dev.brume.internal.notice.NoticeDecider;
import dev.brume.internal.notice.NoticeRules;
import dev.brume.notice.Sender;
import dev.brume.notice.Sighting;
import dev.brume.notice.Watch;
import dev.brume.schedule.DayCalendar;
import dev.brume.spi.Notable;
import dev.brume.spi.NoticeHead;
import dev.brume.spi.NoticeSteps;
import dev.brume.spi.Transaction;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.Executor;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * Tells: decides about what happened, looks for what does not happen by itself, and sends. An instance does not owe it its lease, and no run waits
 * for it.
 */
public final class TellDuty implements Duty {
    /** So many turns a process leaves to others after one in which it could not look. */
    private static final int TURNS_LEFT = 5;

    private static final Duration AFTER_TROUBLE = Duration.ofSeconds(1);
    private static final Duration NOTHING_TO_TELL = Duration.ofSeconds(2);
    private static final Duration KEPT = Duration.ofDays(30);
    private static final Duration TIDIES = Duration.ofHours(1);
    private static final Duration CONTENDED = Duration.ofMillis(50);
    private static final int BATCH = 100;
    private static final int MOST_OPEN = 10_000;

    private final Instance instance;
    private final Outbox outbox;
    private final Optional<Watch> watch;
    private final SecondLook secondLook;
    private NoticeRules rules = NoticeRules.NONE;
    private long nextTroubled;
    private long nextWatch;

    /**
     * Creates the duty.
     *
     * @param senders that this process has
     * @param watch what looks for what does not happen by itself, if this process has it
     * @param executor carries deliveries out
     * @param wake makes the duty take its next step soon
     */
    public TellDuty(Instance instance, List<Sender> senders, Optional<Watch> watch, Executor executor, Runnable wake) {
        this.instance = instance;
        this.watch = watch;
        outbox = new Outbox(instance, senders, executor, wake);
        nextTroubled = instance.time().nanos();
        nextWatch = instance.time().nanos();
        // All instances read once a poll what goes on.
        secondLook = new SecondLook(instance.settings().poll().multipliedBy(2).toNanos());
    }

    @Override
    public Duration step() {
        try {
            Outlook outlook = look();
            if (rules.isEmpty()) {
                return NOTHING_TO_TELL;
            }
            while (outlook.decides) {
                int decided = instance.transact(this::decide);
                outlook = look();
                if (decided == 0) {
                    break;
                }
            }
            lookAgain();
            Duration untilWatch = watchIfTime();
            int began = outbox.send(rules.channels().values());
            while (began > 0) {
                outlook = look();
                began = outbox.send(rules.channels().values());
            }
            Duration rest = outlook.untilNotice
                    .map(this::rest)
                    .orElse(instance.settings().poll());
            return min(min(rest, untilWatch), instance.settings().poll());
        } catch (StoreException e) {
            instance.tellProblem("notices could not be looked after, will try again", e);
            return AFTER_TROUBLE;
        }
    }

    private static Duration min(Duration a, Duration b) {
        return a.compareTo(b) < 0 ? a : b;
    }

    /** One that is due, and that this process could not send now, is left alone for a moment. */
    private Duration rest(Duration left) {
        return left.compareTo(CONTENDED) < 0 ? instance.settings().poll() : left;
    }

    private record Outlook(boolean decides, Optional<Duration> untilNotice) {}

    private Outlook look() {
        boolean anew = instance.time().nanos() - nextTroubled >= 0;
        return instance.transact(tx -> {
            NoticeSteps steps = tx.notices();
            NoticeHead head = steps.read();
            if (!head.isAny()) {
                return new Outlook(/* decides= */ false, Optional.empty());
            }
            if (head.version() != rules.version() || anew) {
                read(steps, head);
            }
            Instant now = now(tx);
            boolean decides =
                    !steps.notables(1).isEmpty() || !steps.dueCauses(now, 1).isEmpty();
            return new Outlook(decides, steps.nextNotice().map(next -> Duration.between(now, next)));
        });
    }

    private void read(NoticeSteps steps, NoticeHead head) {
        Set<String> troubled = steps.openCauses(MOST_OPEN).stream()
                .filter(cause -> cause.trouble().endsWithSuccess())
                .map(CauseRow::subject)
                .collect(Collectors.toSet());
        rules = head.version() == rules.version()
                ? rules.troubled(troubled)
                : new NoticeRules(head.version(), steps.tellings(), troubled);
        instance.noticeRules(rules);
        nextTroubled = instance.time().nanos() + instance.settings().poll().toNanos();
    }

    private static Instant now(Transaction tx) {
        return tx.now().truncatedTo(ChronoUnit.MICROS);
    }

    // Deciding.

    /** Decides about a batch of what happened and of what is due to be told together; returns how much that was. */
    private int decide(Transaction tx) {
        NoticeSteps steps = tx.notices();
        NoticeHead head = steps.lock();
        if (head.version() != rules.version()) {
            read(steps, head);
        }
        Instant now = now(tx);
        Map<Long, List<Notable>> batch = steps.notables(BATCH);
        List<CauseRow> due = steps.dueCauses(now, BATCH);
        if (batch.isEmpty() && due.isEmpty()) {
            return 0;
        }
        Set<Long> ids = batch.values().stream()
                .flatMap(Collection::stream)
                .map(Notable::job)
                .collect(Collectors.toSet());
        Map<Long, JobRow> jobs = steps.jobs(ids);
        Map<VersionKey, Job> definitions = instance.definitions()
                .get(tx, jobs.values().stream().map(JobRow::versionKey).toList());
        Set<String> keys = new LinkedHashSet<>(NoticeDecider.keysOfMany(rules));
        jobs.values().forEach(job -> keys.addAll(Happened.keys(job.name())));
        due.forEach(cause -> {
            keys.add(cause.key());
            keys.addAll(cause.members());
        });
        NoticeDecider decider = decider(tx, keys, now);
        batch.values().stream().flatMap(Collection::stream).forEach(notable -> {
            JobRow job = jobs.get(notable.job());
            if (job != null) {
                Happened.tell(
                        decider, notable, job.name(), Optional.ofNullable(definitions.get(job.versionKey())), now);
            }
        });
        due.forEach(cause -> decider.due(cause.key()));
        write(steps, decider);
        decider.begun().forEach(job -> secondLook.begun(job, instance.time().nanos()));
        steps.forget(batch.keySet());
        return batch.size() + due.size();
    }

    /** A success that came before anybody knew that it matters was not noted. While the store is away the jobs wait; what throws is not looked at again. */
    private void lookAgain() {
        List<JobName> due = secondLook.due(instance.time().nanos(), BATCH);
        try {
            lookAgain(due);
        } catch (StoreException e) {
            throw e;
        } catch (RuntimeException e) {
            instance.tellProblem("looking whether a success has ended what is told failed", e);
        }
        secondLook.looked(due);
    }

    private void lookAgain(List<JobName> due) {
        Map<JobName, RunView> successes = new LinkedHashMap<>();
        for (JobName job : due) {
            instance.store().history().runs(RunFilter.newest(1).of(job).withOutcome(Outcome.SUCCEEDED)).stream()
                    .findFirst()
                    .ifPresent(run -> successes.put(job, run));
        }
        if (!successes.isEmpty()) {
            instance.transact(tx -> end(tx, successes));
        }
    }

    private Void end(Transaction tx, Map<JobName, RunView> successes) {
        NoticeSteps steps = tx.notices();
        steps.lock();
        Set<String> keys = new LinkedHashSet<>(NoticeDecider.keysOfMany(rules));
        successes.keySet().forEach(job -> keys.addAll(Happened.keys(job)));
        Map<String, CauseRow> known = steps.causes(keys);
        NoticeDecider decider = decider(tx, keys, now(tx));
        successes.forEach((job, run) -> run.lastAttempt()
                .flatMap(Attempt::endedAt)
                .ifPresent(ended -> Happened.keys(job).stream()
                        .map(known::get)
                        .filter(cause -> cause != null
                                && cause.isOpen()
                                && cause.trouble().endsWithSuccess())
                        .filter(cause -> cause.lastAt().isBefore(ended))
                        .forEach(cause -> decider.over(cause.key(), ended, Map.of("run", Long.toString(run.id()))))));
        write(steps, decider);
        return null;
    }

    private NoticeDecider decider(Transaction tx, Set<String> keys, Instant now) {
        Set<CalendarName> named = rules.channels().values().stream()
                .flatMap(channel -> channel.quiet().stream())
                .flatMap(quiet -> quiet.days().stream())
                .collect(Collectors.toSet());
        Map<CalendarName, DayCalendar> days = new HashMap<>();
        if (!named.isEmpty()) {
            tx.calendars(named).forEach((name, row) -> days.put(name, row.days()));
        }
        return new NoticeDecider(rules, tx.sessions().epoch(), now, tx.notices().causes(keys), days::get);
    }

    private static void write(NoticeSteps steps, NoticeDecider decider) {
        decider.end();
        steps.write(decider.causes());
        steps.addNotices(decider.notices());
    }

    // Watching.

    private Duration watchIfTime() {
        long left = nextWatch - instance.time().nanos();
        if (left > 0) {
            return Duration.ofNanos(left);
        }
        Duration every = instance.settings().poll().multipliedBy(2);
        nextWatch = instance.time().nanos() + every.toNanos();
        Optional<Instant> turn = instance.transact(tx -> takeTurn(tx, every));
        if (turn.isPresent() && watch.isPresent() && !watch(watch.get(), turn.get())) {
            // Another process may see what this one cannot.
            Duration others = every.multipliedBy(TURNS_LEFT);
            nextWatch = instance.time().nanos() + others.toNanos();
            return others;
        }
        return every;
    }

    /**
     * What cannot look, be it for one definition that throws, keeps nothing else from being told.
     *
     * @return whether it could
     */
    private boolean watch(Watch looks, Instant now) {
        try {
            Watch.Looked looked = looks.look(instance.store().history(), now, rules.rules());
            instance.transact(tx -> decide(tx, looked));
            return true;
        } catch (StoreException e) {
            throw e;
        } catch (RuntimeException | StackOverflowError e) {
            instance.tellProblem("looking for lateness, deadlines and silence failed, will try again", e);
            return false;
        }
    }

    /** Of all that could look, one does; empty if another has just done so, or this process cannot. What is old goes meanwhile. */
    private Optional<Instant> takeTurn(Transaction tx, Duration every) {
        Instant now = now(tx);
        NoticeHead seen = tx.notices().read();
        if (!looks(seen, every, now) && !tidies(seen, now)) {
            return Optional.empty();
        }
        NoticeHead head = tx.notices().lock();
        boolean looks = looks(head, every, now);
        boolean tidies = tidies(head, now);
        if (tidies) {
            tx.notices().tidy(now.minus(KEPT), BATCH * 10);
        }
        NoticeHead watched = looks ? head.watched(now) : head;
        tx.notices().write(tidies ? watched.tidied(now) : watched);
        return Optional.of(now).filter(turn -> looks);
    }

    /** A process without a watch leaves the turn to those that have one. */
    private boolean looks(NoticeHead head, Duration every, Instant now) {
        return watch.isPresent() && isOver(head.watchedAt(), every, now);
    }

    private static boolean tidies(NoticeHead head, Instant now) {
        return isOver(head.tidiedAt(), TIDIES, now);
    }

    private static boolean isOver(Optional<Instant> last, Duration every, Instant now) {
        return last.filter(at -> at.plus(every).isAfter(now)).isEmpty();
    }

    private Void decide(Transaction tx, Watch.Looked looked) {
        NoticeSteps steps = tx.notices();
        steps.lock();
        Instant now = now(tx);
        List<CauseRow> open = steps.openCauses(MOST_OPEN);
        secondLook.goesOn(open, instance.time().nanos());
        Set<String> keys = new LinkedHashSet<>(NoticeDecider.keysOfMany(rules));
        looked.seen().forEach(sighting -> keys.add(sighting.key()));
        open.forEach(cause -> keys.add(cause.key()));
        NoticeDecider decider = decider(tx, keys, now);
        Set<String> seen = looked.seen().stream().map(Sighting::key).collect(Collectors.toSet());
        Map<String, CauseRow> known = steps.causes(keys);
        looked.seen().stream()
                .filter(sighting -> isNew(sighting, known.get(sighting.key()), looked))
                .forEach(decider::saw);
        open.stream()
                .filter(cause -> looked.lasting().contains(cause.trouble()) && !seen.contains(cause.key()))
                .forEach(cause -> decider.over(cause.key(), now, Map.of()));
        write(steps, decider);
        return null;
    }

    /**
     * What is seen at each look was taken note of when it was seen first, unless it looks different now. What looks the same as something that is over
     * is that very thing, except where it may come again.
     */
    private static boolean isNew(Sighting sighting, @Nullable CauseRow known, Watch.Looked looked) {
        if (known == null || !known.print().equals(sighting.print())) {
            return true;
        }
        return !known.isOpen() && looked.lasting().contains(known.trouble());
    }

    /** {@return whether nothing is being sent} */
    public boolean idle() {
        return outbox.idle();
    }
}
