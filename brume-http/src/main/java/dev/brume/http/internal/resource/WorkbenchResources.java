package dev.brume.http.internal.resource;

import dev.brume.Brume;
import dev.brume.DefinitionSet;
import dev.brume.Job;
import dev.brume.Role;
import dev.brume.definitions.DefinitionFile;
import dev.brume.definitions.DefinitionProblem;
import dev.brume.definitions.DefinitionsException;
import dev.brume.definitions.ExpressionText;
import dev.brume.definitions.FileCheck;
import dev.brume.definitions.InsightViews;
import dev.brume.definitions.Subject;
import dev.brume.definitions.Views;
import dev.brume.history.History;
import dev.brume.http.internal.web.Answer;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Member;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Param;
import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Problem.Kind;
import dev.brume.http.internal.web.Reply;
import dev.brume.insight.diff.DefinitionDiff;
import dev.brume.insight.rehearsal.Crew;
import dev.brume.insight.rehearsal.Present;
import dev.brume.insight.rehearsal.Rehearsal;
import dev.brume.insight.rehearsal.WorkTimes;
import dev.brume.internal.document.Fields;
import dev.brume.memory.MemoryStore;
import dev.brume.schedule.Days;
import dev.brume.schedule.Durations;
import dev.brume.schedule.Fold;
import dev.brume.schedule.Gap;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.Schedule;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CompletionStage;
import java.util.stream.Stream;

/** What can be tried before anything is in force: expressions, documents, the days to come. Nothing of it changes anything. */
final class WorkbenchResources {
    private static final Param<String> EXPRESSION = Param.text(
            "expression",
            "Five cron fields, or six with the second first; or 'every 90m', '2027-05-14T06:00', 'DTSTART:... RRULE:...'.",
            1000,
            "15 4 * * *");
    private static final Param<ZoneId> ZONE = Param.zone("zone", "The zone it is evaluated in; UTC unless given.");
    private static final Param<Gap> GAP =
            Param.word("gap", "What becomes of local times that are skipped.", Gap.values());
    private static final Param<Fold> FOLD =
            Param.word("fold", "What becomes of local times that come twice.", Fold.values());
    private static final Param<Days> DAYS = Param.word("days", "How two restricted day fields combine.", Days.values());
    private static final int MOST_SHOWN = 10_000;
    private static final Param<Integer> COUNT =
            Param.number("count", "How many at most; 10 unless given.", 1, MOST_SHOWN, 10);
    private static final Duration LONGEST_REHEARSAL = Duration.ofDays(90);
    private static final int MOST_INSTANCES = 100;
    private static final int MOST_REHEARSED = 500_000;
    private static final Duration AHEAD = Duration.ofDays(7);
    private static final String DOCUMENT =
            "jobs:\n  tide-tables:\n    when: [{cron: '15 4 * * *', zone: Atlantic/Azores}]\n    work: {handler: tide-tables}\n";

    private final Bench looks = new Bench(4, "check or difference");
    private final Bench rehearsals = new Bench(1, "rehearsal");

    private WorkbenchResources() {}

    static List<Operation> operations() {
        WorkbenchResources own = new WorkbenchResources();
        return List.of(
                Operation.get("/previews", "preview", "Shows when an expression is due.")
                        .takes(EXPRESSION, ZONE, GAP, FOLD, DAYS, Shared.FROM, Shared.UNTIL, COUNT)
                        .answers(Answer.listOf("The occurrences, earliest first.", "occurrence"))
                        .byAndBy(call -> own.looks.work(call.limits().seconds(), () -> preview(call))),
                Operation.get(
                                "/explanations",
                                "explain",
                                "Says in words what an expression does, and how each field was understood.")
                        .takes(EXPRESSION, ZONE, GAP, FOLD, DAYS)
                        .answers(Answer.of("The explanation.", "explained"))
                        .byAndBy(call -> own.looks.work(
                                call.limits().seconds(),
                                () -> Reply.json(InsightViews.explained(
                                        subject(call), call.history().now(), 3)))),
                Operation.of(
                                "POST",
                                "/checks",
                                "check",
                                "Checks a document of definitions: what is wrong, and what will surprise.")
                        .needs(Role.VIEWER)
                        .sendsDocument(DOCUMENT)
                        .answers(Answer.of("What was found; an error is a finding here, too.", "checked"))
                        .byAndBy(own::check),
                Operation.of(
                                "POST",
                                "/differences",
                                "compare",
                                "Says what a document of definitions would change, and how occurrences shift.")
                        .says("Against another document, or against what is in force.")
                        .needs(Role.VIEWER)
                        .sends(
                                Map.of("after", DOCUMENT, "before", DOCUMENT),
                                Member.text("after", "The document, as text.").needed(),
                                Member.text("before", "The document it is compared to; what is in force unless given."))
                        .answers(Answer.of("The difference.", "diff"))
                        .byAndBy(own::compare),
                Operation.of(
                                "POST",
                                "/rehearsals",
                                "rehearse",
                                "Lets the engine itself live through the days to come, in virtual time.")
                        .says(
                                "Without a document it goes by what is in force. One is worked out at a time. Whoever may look at some namespaces"
                                        + " only rehearses with the jobs of those; what others run at the same time is not in it then.")
                        .needs(Role.VIEWER)
                        .sends(
                                Map.of("definitions", DOCUMENT, "for", "3d", "instances", 2),
                                Member.text("definitions", "The document, as text; what is in force unless given."),
                                Member.text("for", "How far ahead, at most 90d; 14d unless given."),
                                Member.instant("from", "From when; now unless given."),
                                Member.number("instances", "How many instances there are, all alike; 1 unless given."),
                                Member.number(
                                        "workers", "How many workers of the lane main each has; 16 unless given."),
                                Member.any(
                                        "lanes", "The lanes that each serves, with their workers, instead of workers."),
                                Member.texts("labels", "Labels that each carries."),
                                Member.any(
                                        "takes",
                                        "How long the work of jobs takes, by their names; by the empty name for all never measured."),
                                Member.text("measured", "How far back durations are taken from; 7d unless given."),
                                Member.flag("withOthers", "Whether jobs that other sources define take part as well."))
                        .answers(Answer.of("What it came to.", "rehearse"))
                        .byAndBy(own::rehearse));
    }

    // Expressions.

    private static Subject subject(Call call) {
        String text = call.get(EXPRESSION).orElseThrow(() -> Problem.ofParameter(EXPRESSION.name(), "is missing"));
        Instant now = call.history().now();
        try {
            Schedule schedule = ExpressionText.parse(
                    text, call.get(ZONE).orElse(ZoneId.of("UTC")), call.get(GAP), call.get(FOLD), call.get(DAYS), now);
            return Subject.of(schedule, now);
        } catch (IllegalArgumentException e) {
            throw Problem.ofParameter(EXPRESSION.name(), String.valueOf(e.getMessage()));
        }
    }

    private static Reply preview(Call call) {
        Subject subject = subject(call);
        Instant from = call.get(Shared.FROM).orElseGet(() -> call.history().now());
        Instant until = call.get(Shared.UNTIL).orElse(Instant.MAX);
        if (!from.isBefore(until)) {
            throw Problem.ofParameter(Shared.UNTIL.name(), until + " is not after from, which is " + from);
        }
        int most = Math.min(call.get(COUNT).orElse(10), call.limits().occurrences());
        try (Stream<Occurrence> all = subject.between(from, until)) {
            return Reply.json(all.limit(most).map(Views::occurrence).toList());
        }
    }

    // Documents.

    private CompletionStage<Reply> check(Call call) {
        String text = call.document();
        return looks.work(call.limits().seconds(), () -> checked(call, text));
    }

    private static Reply checked(Call call, String text) {
        try {
            DefinitionFile file = DefinitionFile.parseAlone("document", "document", text);
            return Reply.json(Views.object(
                    "isGood", true,
                    "jobs", file.jobs().size(),
                    "calendars", file.calendars().size(),
                    "problems",
                            FileCheck.of(file, call.history().now()).stream()
                                    .map(warning -> Views.object(
                                            "severity",
                                            "warning",
                                            "line",
                                            warning.line(),
                                            "column",
                                            null,
                                            "pointer",
                                            null,
                                            "job",
                                            warning.job(),
                                            "message",
                                            warning.text()))
                                    .toList()));
        } catch (DefinitionsException e) {
            return Reply.json(Views.object(
                    "isGood",
                    false,
                    "jobs",
                    null,
                    "calendars",
                    null,
                    "problems",
                    e.problems().stream().map(WorkbenchResources::error).toList()));
        }
    }

    private static Map<String, Object> error(DefinitionProblem problem) {
        return Views.object(
                "severity", "error",
                "line", problem.line(),
                "column", problem.column(),
                "pointer", problem.pointer(),
                "job", null,
                "message", problem.message());
    }

    private CompletionStage<Reply> compare(Call call) {
        Fields body = call.body();
        Optional<String> after = body.text("after");
        Optional<String> before = body.text("before");
        call.check();
        return looks.work(call.limits().seconds(), () -> compared(call, after.orElseThrow(), before));
    }

    private static Reply compared(Call call, String after, Optional<String> before) {
        DefinitionSet set =
                DefinitionFile.parseAlone("after", "document", after).definitions();
        Instant now = call.history().now();
        if (before.isEmpty()) {
            // What changes is shown as it is, secrets included: it is for those who define.
            set.namespaces()
                    .forEach(namespace -> call.mustBeAllowed(
                            Role.AUTHOR, namespace, "namespace '" + namespace + "' that you may look at"));
            return Reply.json(difference(set, call.history(), now));
        }
        DefinitionSet earlier =
                DefinitionFile.parseAlone("before", "document", before.get()).definitions();
        try (Brume beside = Brume.on(new MemoryStore(() -> now))
                .withoutLog()
                .instance("compare")
                .build()) {
            beside.define(earlier);
            return Reply.json(difference(set, beside.history(), now));
        }
    }

    private static Map<String, Object> difference(DefinitionSet set, History history, Instant now) {
        return InsightViews.difference(set, DefinitionDiff.of(set, history, now, AHEAD));
    }

    // The days to come.

    private CompletionStage<Reply> rehearse(Call call) {
        Fields body = call.body();
        Optional<String> document = body.text("definitions");
        Duration length = body.duration("for").orElse(Duration.ofDays(14));
        Instant from =
                Shared.instant(body, "from").orElseGet(() -> call.history().now());
        int instances = Shared.bounded(body, "instances", 1, MOST_INSTANCES).orElse(1);
        int workers = Shared.bounded(body, "workers", 1, 10_000).orElse(16);
        Map<String, Integer> lanes = new HashMap<>();
        body.textMap("lanes")
                .forEach((lane, count) -> body.read("lanes", () -> {
                    lanes.put(lane, Integer.parseInt(count));
                    return lane;
                }));
        Set<String> labels = Set.copyOf(body.texts("labels").orElse(List.of()));
        Map<String, Duration> takes = new HashMap<>();
        body.textMap("takes").forEach((name, text) -> body.read("takes", () -> takes.put(name, Durations.parse(text))));
        Duration measured = body.duration("measured").orElse(Duration.ofDays(7));
        boolean withOthers = body.flag("withOthers").orElse(false);
        if (length.compareTo(LONGEST_REHEARSAL) > 0 || length.isNegative() || length.isZero()) {
            body.note("for", Durations.format(length) + " is outside 1s to " + LONGEST_REHEARSAL.toDays() + "d");
        }
        if (measured.isNegative() || measured.compareTo(LONGEST_REHEARSAL) > 0) {
            body.note("measured", "is outside 0s to " + LONGEST_REHEARSAL.toDays() + "d");
        }
        Optional<Crew> crew = body.readHere(
                () -> new Crew(instances, lanes.isEmpty() ? Map.of(Job.MAIN_LANE, workers) : lanes, labels));
        call.check();
        return rehearsals.work(call.limits().seconds(), () -> {
            Present present = Present.of(call.history(), measured)
                    .only(job -> call.caller().may(Role.VIEWER, job.namespace()));
            DefinitionSet set = document.map(text -> present.with(
                            DefinitionFile.parseAlone("definitions", "document", text)
                                    .definitions(),
                            withOthers))
                    .orElseGet(() -> present.inForce("store"));
            set.namespaces()
                    .forEach(namespace ->
                            call.mustBeAllowed(namespace, "namespace '" + namespace + "' that you may look at"));
            refuseTooMany(set, from, length);
            WorkTimes times = new WorkTimes(present.took(), takes);
            return Reply.json(InsightViews.foresight(
                    Rehearsal.of(set, crew.orElseThrow(), times::of, from, length), Optional.empty()));
        });
    }

    private static void refuseTooMany(DefinitionSet set, Instant from, Duration length) {
        long owed = 0;
        for (Job job : set.jobs()) {
            owed += job.timeline().count(from, from.plus(length));
            if (owed > MOST_REHEARSED) {
                throw new Problem(
                        Kind.REFUSED,
                        "more than " + MOST_REHEARSED + " occurrences lie in that time; rehearse less of it, or let the"
                                + " command do it");
            }
        }
    }
}
