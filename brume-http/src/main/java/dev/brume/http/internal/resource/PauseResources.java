package dev.brume.http.internal.resource;

import dev.brume.CalendarName;
import dev.brume.JobName;
import dev.brume.PauseChange;
import dev.brume.PauseOrder;
import dev.brume.Role;
import dev.brume.definitions.Views;
import dev.brume.history.Pause;
import dev.brume.http.internal.web.Answer;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Member;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Pages;
import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Problem.Kind;
import dev.brume.http.internal.web.Reply;
import dev.brume.internal.document.Fields;
import dev.brume.schedule.Zones;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;

/** Pauses: of a job, of all that carry a tag, of a namespace, of everything. */
final class PauseResources {
    private static final Member[] SCOPE = {
        Member.text("job", "One job: NAMESPACE/NAME, or NAME of main."),
        Member.text("tag", "All jobs that carry this tag, now or later; takes the role everywhere."),
        Member.text("namespace", "All jobs of this namespace, now or later."),
        Member.flag("everything", "All jobs, now or later; takes the role everywhere.")
    };
    private static final Answer CHANGED = Answer.object(
            "Whether the order changed which pauses there are, and how many jobs changed by it.",
            "scope",
            Map.of("type", "string"),
            "ordered",
            Map.of("type", "boolean"),
            "jobs",
            Map.of("type", "integer"));

    private PauseResources() {}

    static List<Operation> operations() {
        return List.of(
                Operation.get("/pauses", "listPauses", "Lists the pauses in force and those to come.")
                        .takes(Call.AS_OF, Pages.FIELDS)
                        .answers(Answer.listOf("The pauses.", "pause"))
                        .by(PauseResources::list),
                Operation.of("POST", "/pauses", "pause", "Pauses jobs, now or later: they owe nothing meanwhile.")
                        .says(
                                "Runs that there are go on. Afterwards each job's ifMissed decides what is made up for, unless it is left"
                                        + " out.")
                        .sends(
                                Map.of(
                                        "job",
                                        "harbour/tide-tables",
                                        "until",
                                        "2027-01-02T00:00:00Z",
                                        "because",
                                        "the gauge is out"),
                                members(
                                        Member.instant("from", "When it begins; now unless given."),
                                        Member.instant("until", "When it ends by itself."),
                                        Member.text(
                                                "calendar",
                                                "On the days of this calendar, instead of from and until: NAME, NAMESPACE/NAME, or /NAME for the"
                                                        + " cluster's."),
                                        Member.text("zone", "The zone of those days."),
                                        Member.flag("leaveOut", "Whether nothing is made up for afterwards."),
                                        Member.BECAUSE))
                        .answers(CHANGED)
                        .by(PauseResources::pause),
                Operation.of("POST", "/resumptions", "resume", "Ends pauses, or takes back those that have not begun.")
                        .sends(
                                Map.of("job", "harbour/tide-tables", "because", "the gauge works again"),
                                members(
                                        Member.flag(
                                                "planned", "Whether only those are taken back that have not begun."),
                                        Member.BECAUSE))
                        .answers(CHANGED)
                        .by(PauseResources::resume));
    }

    private static Member[] members(Member... more) {
        return Stream.concat(Stream.of(SCOPE), Stream.of(more)).toArray(Member[]::new);
    }

    private static Reply list(Call call) {
        List<Pause> inForce = call.history().pauses();
        List<Map<String, Object>> all = Stream.concat(
                        inForce.stream().filter(pause -> isSeen(call, pause)).map(pause -> Views.pause(pause, true)),
                        call.history().plannedPauses().stream()
                                .filter(pause -> isSeen(call, pause))
                                .map(pause -> Views.pause(pause, false)))
                .toList();
        return Pages.all(call, all, view -> view);
    }

    /** What pauses everything, or by a tag, concerns everybody. */
    private static boolean isSeen(Call call, Pause pause) {
        return switch (pause.scope().kind()) {
            case JOB ->
                call.caller()
                        .may(Role.VIEWER, JobName.parse(pause.scope().name()).namespace());
            case NAMESPACE -> call.caller().may(Role.VIEWER, pause.scope().name());
            case TAG, EVERYTHING -> true;
        };
    }

    private static Pause.Scope scope(Call call, Fields body) {
        long given = Stream.of(SCOPE).filter(member -> body.has(member.name())).count();
        if (given != 1) {
            body.noteHere("expected one of job, tag, namespace and everything");
        }
        Optional<Pause.Scope> scope = Shared.jobName(body, "job").map(Pause.Scope::of);
        scope = scope.or(() -> body.text("tag").flatMap(text -> body.read("tag", () -> Pause.Scope.tag(text))));
        scope = scope.or(() ->
                body.text("namespace").flatMap(text -> body.read("namespace", () -> Pause.Scope.namespace(text))));
        boolean everything = body.flag("everything").orElse(false);
        if (body.has("everything") && !everything) {
            body.note("everything", "is false (expected true, or one of job, tag and namespace)");
        }
        call.check();
        return scope.orElse(Pause.Scope.EVERYTHING);
    }

    private static void checkRights(Call call, Pause.Scope scope) {
        switch (scope.kind()) {
            case JOB -> {
                JobName name = JobName.parse(scope.name());
                call.mustBeAllowed(name.namespace(), "job '" + name + "'");
                Shared.visible(call, name);
            }
            case NAMESPACE -> call.mustBeAllowed(scope.name(), "namespace '" + scope.name() + "' that you may look at");
            case TAG, EVERYTHING -> {
                if (!call.caller().mayEverywhere(Role.OPERATOR)) {
                    throw new Problem(
                            Kind.NOT_ALLOWED,
                            "a pause of " + scope
                                    + " may concern every namespace and takes the role operator everywhere");
                }
            }
        }
    }

    private static Reply pause(Call call) {
        Fields body = call.body();
        Optional<Instant> from = Shared.instant(body, "from");
        Optional<Instant> until = Shared.instant(body, "until");
        Optional<ZoneId> zone = body.text("zone").flatMap(text -> body.read("zone", () -> Zones.parse(text)));
        Optional<String> calendar = body.text("calendar");
        boolean leavesOut = body.flag("leaveOut").orElse(false);
        if (body.has("calendar") != body.has("zone")) {
            body.noteHere("calendar and zone go together");
        }
        Pause.Scope scope = scope(call, body);
        checkRights(call, scope);
        PauseOrder order = PauseOrder.of(scope);
        order = from.map(order::from).orElse(order);
        order = until.map(order::until).orElse(order);
        if (calendar.isPresent()) {
            order = order.during(calendar(call, scope, calendar.get()), zone.orElseThrow());
        }
        order = leavesOut ? order.leavingOut() : order;
        return reply(scope, call.orders().pause(order));
    }

    /** A calendar of the scope's own namespace, {@code /NAME} of the cluster, or {@code NAMESPACE/NAME} of one that may be seen. */
    private static CalendarName calendar(Call call, Pause.Scope scope, String text) {
        int slash = text.indexOf('/');
        if (slash <= 0) {
            return CalendarName.in(namespace(scope), text);
        }
        String other = text.substring(0, slash);
        call.mustBeAllowed(Role.VIEWER, other, "calendar '" + text + "'");
        return new CalendarName(other, text.substring(slash + 1));
    }

    private static String namespace(Pause.Scope scope) {
        return switch (scope.kind()) {
            case JOB -> JobName.parse(scope.name()).namespace();
            case NAMESPACE -> scope.name();
            case TAG, EVERYTHING -> JobName.MAIN;
        };
    }

    private static Reply resume(Call call) {
        Fields body = call.body();
        boolean planned = body.flag("planned").orElse(false);
        Pause.Scope scope = scope(call, body);
        checkRights(call, scope);
        if (planned) {
            int takenBack = call.orders().takeBackPauses(scope);
            return reply(scope, new PauseChange(takenBack > 0, takenBack));
        }
        return reply(scope, call.orders().resume(scope));
    }

    private static Reply reply(Pause.Scope scope, PauseChange change) {
        return Reply.json(Views.object("scope", scope, "ordered", change.ordered(), "jobs", change.jobs()));
    }
}
