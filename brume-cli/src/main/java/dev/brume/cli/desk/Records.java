package dev.brume.cli.desk;

import dev.brume.Allowance;
import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.CalendarName;
import dev.brume.GateKey;
import dev.brume.Grant;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Keep;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.Rate;
import dev.brume.Role;
import dev.brume.RunState;
import dev.brume.definitions.Views;
import dev.brume.history.AfterEnd;
import dev.brume.history.AllowanceRow;
import dev.brume.history.CalendarRow;
import dev.brume.history.CalendarView;
import dev.brume.history.CauseRow;
import dev.brume.history.Change;
import dev.brume.history.ChangeView;
import dev.brume.history.Gate;
import dev.brume.history.JobRow;
import dev.brume.history.JobView;
import dev.brume.history.Kept;
import dev.brume.history.LastEnd;
import dev.brume.history.NamedLeaseRow;
import dev.brume.history.NamespaceView;
import dev.brume.history.NewestRuns;
import dev.brume.history.NoticeFigures;
import dev.brume.history.NoticeRow;
import dev.brume.history.NoticeState;
import dev.brume.history.OneOffView;
import dev.brume.history.Output;
import dev.brume.history.Pause;
import dev.brume.history.PauseMark;
import dev.brume.history.Progress;
import dev.brume.history.Retention;
import dev.brume.history.RunRow;
import dev.brume.history.RunView;
import dev.brume.history.SessionRow;
import dev.brume.history.SessionView;
import dev.brume.history.Span;
import dev.brume.history.SpanView;
import dev.brume.history.Starts;
import dev.brume.history.TellingRow;
import dev.brume.history.TokenRow;
import dev.brume.history.Vitals;
import dev.brume.internal.document.AllowanceDocument;
import dev.brume.internal.document.CalendarDocument;
import dev.brume.internal.document.DocumentProblem;
import dev.brume.internal.document.JobDocument;
import dev.brume.internal.document.PinsDocument;
import dev.brume.internal.document.TellingDocument;
import dev.brume.notice.Notice;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.Trouble;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.Durations;
import dev.brume.schedule.Note;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.Zones;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.UUID;
import java.util.function.Supplier;
import java.util.stream.Collectors;

/** Reads what {@link Views} wrote, as far as it says it. Stateless. */
public final class Records {
    /** What only the store itself knows. */
    private static final long UNKNOWN = 0;

    private Records() {}

    /** {@return a run, with what it printed if that is said} */
    public static RunView run(Seen seen) {
        RunRow.Owed owed = new RunRow.Owed(
                UNKNOWN,
                seen.instant("planned"),
                seen.maybe("slot").orElse(""),
                seen.word("origin", Origin.class),
                seen.local("nominal"),
                seen.text("zone"),
                Optional.of(String.join(",", seen.texts("notes"))).filter(text -> !text.isEmpty()),
                seen.maybeNumber("follows"),
                seen.maybe("orderedBy"));
        Map<Integer, Output> outputs = new TreeMap<>();
        List<Attempt> attempts = new ArrayList<>();
        for (Seen attempt : seen.list("attempts")) {
            attempts.add(attempt(attempt));
            attempt.maybe("output")
                    .ifPresent(text -> outputs.put(
                            attempt.small("attempt"),
                            new Output(text, attempt.number("outputBytes"), attempt.number("outputOmitted"))));
        }
        return new RunView(
                seen.number("run"),
                JobName.parse(seen.text("job")),
                owed,
                seen.small("version"),
                seen.text("lane"),
                seen.instant("readyAt"),
                seen.maybeWord("state", RunState.class),
                seen.maybeWithin("progress")
                        .map(progress -> new Progress(progress.small("percent"), progress.text("message"))),
                seen.maybeWord("outcome", Outcome.class),
                seen.maybe("reason"),
                attempts,
                seen.maybe("payload"),
                seen.maybe("result"),
                seen.maybeInstant("recordedAt"),
                outputs);
    }

    private static Attempt attempt(Seen seen) {
        return new Attempt(
                seen.small("attempt"),
                seen.text("instance"),
                UUID.fromString(seen.text("session")),
                seen.number("fence"),
                seen.instant("startedAt"),
                seen.maybeInstant("endedAt"),
                seen.maybeWord("end", AttemptEnd.class),
                seen.maybe("error"),
                seen.maybe("trace"));
    }

    /**
     * {@return a job as it stands}
     *
     * @param calendars asked for their days only if its schedules name any
     */
    static JobView job(Seen seen, Supplier<Map<CalendarName, DayCalendar>> calendars) {
        JobName name = JobName.parse(seen.text("job"));
        JobRow row = new JobRow(
                UNKNOWN,
                name,
                seen.small("version"),
                seen.text("source"),
                seen.instant("decidedUntil"),
                seen.maybeInstant("nextAt"),
                seen.small("unfinished"),
                0,
                seen.small("waiting"),
                NewestRuns.NONE,
                seen.maybeInstant("afterEndAt").map(AfterEnd::due),
                false,
                new PauseMark(
                        seen.flag("paused") ? PauseMark.State.PAUSED : PauseMark.State.NONE,
                        seen.maybeInstant("pauseTurnsAt")));
        Job plain = definition(name, seen.raw("definition").orElse(Map.of()));
        Job job = PinsDocument.read((Map<?, ?>) seen.raw("pins").orElse(Map.of()), "")
                .apply(plain, daysOf(plain, calendars));
        return new JobView(
                row,
                job,
                seen.instant("definedAt"),
                seen.maybeWithin("lastRun")
                        .map(last -> new LastEnd(
                                last.number("run"), last.word("outcome", Outcome.class), last.instant("endedAt"))));
    }

    private static Map<String, DayCalendar> daysOf(Job job, Supplier<Map<CalendarName, DayCalendar>> known) {
        if (job.calendars().isEmpty()) {
            return Map.of();
        }
        Map<CalendarName, DayCalendar> calendars = known.get();
        return job.calendars().stream()
                .map(DayCalendar::name)
                .distinct()
                .filter(name -> calendars.containsKey(CalendarName.in(job.name().namespace(), name)))
                .collect(Collectors.toMap(
                        name -> name,
                        name -> calendars.get(CalendarName.in(job.name().namespace(), name))));
    }

    static Job definition(JobName name, Object document) {
        List<DocumentProblem> problems = new ArrayList<>();
        return JobDocument.read(name, "", document, Optional.empty(), problems)
                .orElseThrow(() -> Garbled.of("a definition of " + name + " that this version understands", problems));
    }

    static SessionView session(Seen seen) {
        SessionRow row = new SessionRow(
                UUID.fromString(seen.text("session")),
                seen.text("instance"),
                seen.text("host"),
                seen.number("pid"),
                seen.texts("lanes"),
                seen.texts("labels"),
                seen.text("software"),
                seen.text("tzdata"),
                seen.number("epoch"),
                seen.word("state", SessionRow.State.class),
                seen.instant("openedAt"),
                seen.instant("renewedAt"),
                seen.instant("leaseUntil"),
                seen.maybeInstant("endedAt"),
                Optional.empty(),
                Duration.ZERO,
                seen.maybeNumber("heapMegabytes")
                        .map(heap -> new Vitals(
                                heap,
                                seen.number("heapLimitMegabytes"),
                                seen.maybeShare("load").orElseThrow(),
                                seen.small("processors"))));
        return new SessionView(row, seen.small("runs"));
    }

    static SpanView span(Seen seen) {
        Instant first = seen.instant("first");
        Instant last = seen.instant("last");
        return new SpanView(
                JobName.parse(seen.text("job")),
                new Span(
                        UNKNOWN,
                        seen.small("version"),
                        first,
                        last.plusNanos(1),
                        first,
                        last,
                        seen.maybeNumber("count").orElse(1L),
                        seen.text("reason")));
    }

    static ChangeView change(Seen seen) {
        return new ChangeView(
                seen.number("line"),
                seen.instant("at"),
                new Change(
                        seen.text("kind"),
                        seen.text("who"),
                        seen.text("host"),
                        seen.maybe("job").map(JobName::parse),
                        seen.maybe("versionBefore").map(Integer::valueOf),
                        seen.maybe("versionAfter").map(Integer::valueOf),
                        seen.text("text"),
                        seen.maybe("because").orElse("")));
    }

    static Pause pause(Seen seen) {
        return new Pause(
                scope(seen.text("scope")),
                seen.instant("since"),
                seen.maybeInstant("until"),
                seen.word("owed", Pause.Owed.class),
                seen.text("who"),
                seen.maybe("because").orElse(""),
                seen.maybe("calendar").map(name -> new Pause.Days(calendarName(name), Zones.parse(seen.text("zone")))));
    }

    /** Reads a scope as it says itself. */
    private static Pause.Scope scope(String text) {
        int space = text.indexOf(' ');
        String kind = space < 0 ? text : text.substring(0, space);
        String name = text.substring(space + 1);
        return switch (kind) {
            case "job" -> Pause.Scope.of(JobName.parse(name));
            case "tag" -> Pause.Scope.tag(name);
            case "namespace" -> Pause.Scope.namespace(name);
            default -> Pause.Scope.EVERYTHING;
        };
    }

    private static CalendarName calendarName(String text) {
        int stroke = text.indexOf('/');
        return stroke < 0
                ? new CalendarName(JobName.MAIN, text)
                : new CalendarName(text.substring(0, stroke), text.substring(stroke + 1));
    }

    static OneOffView oneOff(Seen seen) {
        JobName job = JobName.parse(seen.text("job"));
        return new OneOffView(
                job,
                seen.text("key"),
                seen.instant("dueAt"),
                seen.maybe("payload"),
                seen.text("orderedBy"),
                seen.number("run"),
                /* made= */ false,
                seen.maybe("exclusive").map(name -> new GateKey(GateKey.Kind.ONE_OFF, name)));
    }

    static CalendarView calendar(Seen seen) {
        CalendarName name = calendarName(seen.text("calendar"));
        List<DocumentProblem> problems = new ArrayList<>();
        DayCalendar days = CalendarDocument.read(
                        name.reference(), "", seen.raw("content").orElse(Map.of()), file -> new TreeSet<>(), problems)
                .orElseThrow(() -> Garbled.of("the days of calendar " + name, problems));
        return new CalendarView(
                new CalendarRow(name, seen.small("version"), days, seen.text("source")),
                seen.instant("definedAt"),
                seen.small("jobs"));
    }

    static NoticeRow notice(Seen seen) {
        Map<String, String> facts = new LinkedHashMap<>();
        Seen.of(seen.raw("facts").orElse(Map.of()))
                .whole()
                .forEach((name, value) -> facts.put((String) name, (String) value));
        NoticeKind kind = NoticeKind.of(seen.text("kind")).orElse(NoticeKind.FINDING);
        Notice notice = new Notice(
                seen.text("notice"),
                seen.text("cause"),
                seen.text("channel"),
                kind,
                seen.maybe("job").map(JobName::parse),
                seen.instant("at"),
                seen.text("title"),
                facts);
        return new NoticeRow(
                seen.number("number"),
                notice,
                seen.word("state", NoticeState.class),
                seen.small("attempts"),
                seen.maybeInstant("nextAt").orElse(notice.at()),
                seen.instant("giveUpAt"),
                seen.maybe("problem"),
                Optional.empty(),
                seen.maybeInstant("settledAt"));
    }

    static CauseRow cause(Seen seen) {
        List<CauseRow.Told> told = Seen.listOf(seen.raw("told").orElse(List.of())).stream()
                .map(each -> CauseRow.Told.nothing(
                                each.text("channel"), each.instant("firstAt"), 0, /* recovery= */ true)
                        .at(each.instant("at"), /* goesOn= */ true)
                        .folded(each.number("folded"), each.maybeInstant("digestAt")))
                .toList();
        return new CauseRow(
                seen.text("cause"),
                seen.word("trouble", Trouble.class),
                seen.text("subject"),
                Optional.empty(),
                seen.instant("openedAt"),
                seen.instant("lastAt"),
                seen.number("count"),
                seen.small("inARow"),
                "",
                seen.text("last"),
                told,
                seen.raw("acknowledged").map(Seen::of).map(Records::silence),
                List.of(),
                seen.maybeInstant("closedAt"));
    }

    private static CauseRow.Silence silence(Seen seen) {
        return new CauseRow.Silence(
                seen.text("by"), seen.text("because"), seen.instant("at"), seen.maybeInstant("until"));
    }

    static TellingRow telling(Seen seen) {
        Map<String, Object> document = new LinkedHashMap<>();
        document.put("channels", seen.raw("channels").orElse(Map.of()));
        document.put("notices", seen.raw("notices").orElse(Map.of()));
        return new TellingRow(
                seen.text("source"),
                seen.small("version"),
                TellingDocument.read(document, new ArrayList<>()),
                seen.instant("definedAt"));
    }

    static NoticeFigures noticeFigures(Seen seen) {
        return new NoticeFigures(
                seen.number("waiting"),
                seen.maybeInstant("oldestWaiting"),
                seen.number("undelivered"),
                seen.number("delivered"),
                seen.number("folded"),
                seen.number("causes"),
                seen.number("undecided"));
    }

    static NamedLeaseRow lease(Seen seen) {
        return new NamedLeaseRow(
                seen.text("lease"),
                seen.text("holder"),
                seen.number("fence"),
                seen.instant("takenAt"),
                seen.instant("renewedAt"),
                seen.instant("until"),
                seen.instant("freeAt"));
    }

    static Gate gate(Seen seen) {
        return new Gate(
                new GateKey(seen.word("kind", GateKey.Kind.class), seen.text("name")),
                seen.small("places"),
                seen.small("taken"),
                seen.maybe("rate").map(Records::rate),
                Starts.NONE,
                seen.maybeInstant("opensAt"));
    }

    private static Rate rate(String text) {
        String[] parts = text.split(" in ");
        return Rate.of(Integer.parseInt(parts[0]), Durations.parse(parts[1]));
    }

    static NamespaceView namespace(Seen seen) {
        return new NamespaceView(
                seen.text("namespace"),
                seen.small("jobs"),
                seen.small("paused"),
                seen.raw("allowance")
                        .map(document ->
                                new AllowanceRow(allowance(document), seen.instant("setAt"), seen.text("setBy"))));
    }

    static Allowance allowance(Object document) {
        return AllowanceDocument.read(document, new ArrayList<>())
                .orElseThrow(() -> Garbled.of("an allowance", document));
    }

    static Retention retention(Seen seen) {
        return new Retention(
                keep(seen.within("total")),
                seen.maybeDuration("floor"),
                keptFrom(seen.within("total")),
                seen.maybeInstant("appliedAt"),
                seen.list("jobs").stream()
                        .map(job -> new Kept(
                                UNKNOWN,
                                JobName.parse(job.text("job")),
                                0,
                                keep(job.within("keeps")),
                                keptFrom(job.within("keeps"))))
                        .toList());
    }

    private static Keep keep(Seen seen) {
        Keep bound = seen.maybeDuration("for").map(Keep::upTo).orElse(Keep.ALL);
        return seen.maybeNumber("runs").map(bound::andNewest).orElse(bound);
    }

    private static Instant keptFrom(Seen seen) {
        return seen.maybeInstant("keptFrom").orElse(Instant.EPOCH);
    }

    static TokenRow token(Seen seen) {
        return new TokenRow(
                seen.text("token"),
                grant(seen),
                seen.instant("addedAt"),
                seen.text("addedBy"),
                seen.maybeInstant("until"),
                seen.maybeInstant("revokedAt"));
    }

    static Grant grant(Seen seen) {
        Role role = Role.valueOf(seen.text("role").toUpperCase(Locale.ROOT));
        return seen.has("namespaces") ? Grant.within(seen.texts("namespaces"), role) : Grant.everywhere(role);
    }

    static Occurrence occurrence(Seen seen) {
        return new Occurrence(
                seen.instant("instant"),
                seen.maybe("nominal").isPresent() ? seen.local("nominal") : seen.local("local"),
                Zones.parse(seen.text("zone")),
                seen.texts("notes").stream().map(Note::valueOf).collect(Collectors.toSet()));
    }
}
