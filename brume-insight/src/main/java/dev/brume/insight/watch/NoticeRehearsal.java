package dev.brume.insight.watch;

import dev.brume.CalendarName;
import dev.brume.Job;
import dev.brume.Reason;
import dev.brume.history.CauseRow;
import dev.brume.history.History;
import dev.brume.history.JobAccount;
import dev.brume.history.NoticeRow;
import dev.brume.history.TellingRow;
import dev.brume.history.Timeframe;
import dev.brume.insight.tally.DeadlineTally;
import dev.brume.internal.notice.Happened;
import dev.brume.internal.notice.NoticeDecider;
import dev.brume.internal.notice.NoticeRules;
import dev.brume.notice.Notice;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.Sighting;
import dev.brume.notice.Telling;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.Durations;
import dev.brume.spi.Notable;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.PriorityQueue;
import java.util.Set;
import java.util.function.Consumer;
import java.util.stream.Stream;

/**
 * What would have been told in a time that is over, had some rules been in force: the decisions of telling, over what is on record. Confined to one
 * thread.
 *
 * <p>It knows what the ledger knows: how runs ended, when they began, what was missed and skipped; so it finds failures, lateness, length, deadlines of
 * jobs with schedules of their own, and silence. What happened to single attempts, to instances and to lanes it does not know.
 *
 * @since 0.1.0
 */
public final class NoticeRehearsal {
    private static final String SOURCE = "rehearsed";

    private final NoticeRules rules;
    private final Map<String, CauseRow> causes = new HashMap<>();
    private final PriorityQueue<Due> due = new PriorityQueue<>(Comparator.comparing(Due::at));
    private final List<Notice> told = new ArrayList<>();
    private final Map<CalendarName, DayCalendar> calendars = new HashMap<>();

    private record Due(Instant at, String key) {}

    /** What happened, and what is to be made of it. */
    private record Event(Instant at, Set<String> keys, Consumer<NoticeDecider> step) {}

    private NoticeRehearsal(Telling telling) {
        rules = new NoticeRules(1, List.of(new TellingRow(SOURCE, 1, telling, Instant.EPOCH)), Set.of());
    }

    /**
     * {@return the notices that would have been sent, in their order}
     *
     * @param from inclusive
     * @param until exclusive
     */
    public static List<Notice> of(History history, Telling telling, Instant from, Instant until) {
        NoticeRehearsal rehearsal = new NoticeRehearsal(telling);
        List<Event> events = new ArrayList<>();
        Map<Long, Sighting.OfJob> withDeadlines = new HashMap<>();
        history.calendars()
                .forEach(view ->
                        rehearsal.calendars.put(view.row().name(), view.row().days()));
        history.accounts(Timeframe.between(from, until), account -> {
            rehearsal.read(account, from, until, events);
            if (DeadlineTally.isStatedBy(account.versions())) {
                withDeadlines.put(account.id(), ofJob(account));
            }
        });
        DeadlineTally.of(
                        history,
                        from,
                        until,
                        withDeadlines.values().stream()
                                .map(Sighting.OfJob::name)
                                .toList())
                .forEach((id, kept) -> Optional.ofNullable(withDeadlines.get(id))
                        .ifPresent(of -> kept.listed().forEach(missed -> deadline(of, missed, events))));
        events.sort(Comparator.comparing(Event::at));
        events.forEach(rehearsal::happen);
        rehearsal.until(until);
        return rehearsal.told;
    }

    private void happen(Event event) {
        until(event.at);
        decide(event.at, event.keys, event.step);
    }

    private void until(Instant at) {
        while (!due.isEmpty() && !due.peek().at.isAfter(at)) {
            Due next = due.poll();
            boolean stands = Optional.ofNullable(causes.get(next.key))
                    .flatMap(CauseRow::nextAt)
                    .filter(next.at::equals)
                    .isPresent();
            if (stands) {
                Set<String> keys = new HashSet<>(Set.of(next.key));
                keys.addAll(causes.get(next.key).members());
                decide(next.at, keys, decider -> decider.due(next.key));
            }
        }
    }

    private void decide(Instant at, Set<String> keys, Consumer<NoticeDecider> step) {
        Map<String, CauseRow> known = new HashMap<>();
        Set<String> all = new HashSet<>(NoticeDecider.keysOfMany(rules));
        all.addAll(keys);
        all.forEach(key -> Optional.ofNullable(causes.get(key)).ifPresent(cause -> known.put(key, cause)));
        NoticeDecider decider = new NoticeDecider(rules, 1, at, known, calendars::get);
        step.accept(decider);
        decider.end();
        decider.causes().forEach(cause -> {
            causes.put(cause.key(), cause);
            cause.nextAt().ifPresent(next -> due.add(new Due(next, cause.key())));
        });
        decider.notices().stream().map(NoticeRow::notice).forEach(told::add);
    }

    private static Sighting.OfJob ofJob(JobAccount account) {
        return new Sighting.OfJob(
                account.id(), account.name(), Set.copyOf(newest(account).tags()));
    }

    private static Job newest(JobAccount account) {
        return account.versions().get(account.versions().size() - 1).job();
    }

    private void read(JobAccount account, Instant from, Instant until, List<Event> events) {
        if (account.versions().isEmpty()) {
            return;
        }
        Job job = newest(account);
        Set<String> keys = Set.copyOf(Happened.keys(account.name()));
        account.lines().forEach(line -> line(account, job, line, keys, events));
        account.spans().stream()
                .filter(span -> !Notable.isWished(Reason.named(span.reason())))
                .forEach(span -> add(
                        events,
                        keys,
                        job,
                        new Notable(
                                Notable.Kind.PASSED_OVER,
                                account.id(),
                                Optional.empty(),
                                Optional.of(span.first()),
                                0,
                                Optional.empty(),
                                Optional.of(span.last()),
                                span.count(),
                                -1,
                                Optional.of(span.reason()),
                                Optional.empty()),
                        span.last()));
        silence(account, job, keys, from, until, events);
    }

    private static void add(List<Event> events, Set<String> keys, Job job, Notable notable, Instant at) {
        events.add(new Event(at, keys, decider -> Happened.tell(decider, notable, job.name(), Optional.of(job), at)));
    }

    private void line(JobAccount account, Job job, JobAccount.Line line, Set<String> keys, List<Event> events) {
        Optional<Notable.Kind> kind = line.outcome().flatMap(Notable.Kind::of);
        Instant ended = line.ended().or(line::started).orElse(line.planned());
        Sighting.OfJob of = ofJob(account);
        line.late()
                .filter(late -> late.compareTo(Duration.ofSeconds(1)) > 0)
                .ifPresent(late -> sighted(
                        events,
                        keys,
                        of,
                        NoticeKind.LATE,
                        line,
                        line.started().orElseThrow(),
                        account.name() + " began " + Durations.about(late) + " after its planned time",
                        Map.of("lateMillis", Long.toString(late.toMillis()))));
        boolean wished = Notable.isWished(line.reason().flatMap(Reason::named));
        if (kind.isPresent() && !wished) {
            add(
                    events,
                    keys,
                    job,
                    new Notable(
                            kind.get(),
                            account.id(),
                            Optional.of(line.run()),
                            Optional.of(line.planned()),
                            1,
                            line.instance(),
                            Optional.of(ended),
                            1,
                            line.took().map(Duration::toMillis).orElse(-1L),
                            line.reason(),
                            Optional.empty()),
                    ended);
        }
    }

    private static void deadline(Sighting.OfJob of, DeadlineTally.Missed missed, List<Event> events) {
        String by = missed.deadline().toString();
        Sighting sighting = new Sighting(
                NoticeKind.DEADLINE_MISSED,
                of.name().toString(),
                Optional.of(of),
                missed.deadline(),
                1,
                by,
                "missed " + by,
                of.name() + " has not ended by its deadline of " + by,
                Map.of("planned", missed.planned().toString(), "deadline", by));
        events.add(new Event(missed.deadline(), Set.of(sighting.key()), decider -> decider.saw(sighting)));
    }

    private static void sighted(
            List<Event> events,
            Set<String> keys,
            Sighting.OfJob of,
            NoticeKind kind,
            JobAccount.Line line,
            Instant at,
            String title,
            Map<String, String> facts) {
        String token = line.run() + "." + kind.word();
        Sighting sighting = new Sighting(
                kind, of.name().toString(), Optional.of(of), at, 1, token, "run " + line.run(), title, facts);
        events.add(new Event(at, keys, decider -> decider.saw(sighting)));
    }

    /** Between two successes that are further apart than the job allows it was silent; so it was if the first came too late. */
    private static void silence(
            JobAccount account, Job job, Set<String> keys, Instant from, Instant until, List<Event> events) {
        if (job.successWithin().isEmpty()) {
            return;
        }
        Duration within = job.successWithin().get();
        Instant born = account.versions().get(0).after();
        List<Instant> successes = Stream.concat(
                        Stream.of(born.isAfter(from) ? born : from),
                        account.lines().stream()
                                .filter(JobAccount.Line::hasSucceeded)
                                .flatMap(line -> line.ended().stream()))
                .sorted()
                .toList();
        Sighting.OfJob of = ofJob(account);
        for (int i = 0; i < successes.size(); i++) {
            Instant last = successes.get(i);
            Instant silent = last.plus(within);
            Instant next = i + 1 < successes.size() ? successes.get(i + 1) : until;
            if (silent.isBefore(next)) {
                Sighting sighting = new Sighting(
                        NoticeKind.SILENT,
                        account.name().toString(),
                        Optional.of(of),
                        silent,
                        1,
                        last.toString(),
                        last.toString(),
                        account.name() + " has not succeeded for " + Durations.format(within),
                        Map.of("lastSuccess", last.toString()));
                events.add(new Event(silent, keys, decider -> decider.saw(sighting)));
            }
        }
    }
}
