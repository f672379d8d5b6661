package dev.brume.http.internal.resource;

import dev.brume.GateKey;
import dev.brume.Role;
import dev.brume.SharedName;
import dev.brume.definitions.Views;
import dev.brume.history.Gate;
import dev.brume.history.SessionRow;
import dev.brume.history.SessionView;
import dev.brume.http.internal.web.Answer;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Member;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Pages;
import dev.brume.http.internal.web.Param;
import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Reply;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Map;

/** What jobs share: instances, leases, limits, calendars. */
final class ClusterResources {
    private static final Param<Boolean> ALL = Param.flag("all", "Whether lives that have ended are listed as well.");
    private static final String[] EXAMPLE = {"instance", "quay-1"};

    private ClusterResources() {}

    static List<Operation> operations() {
        return List.of(
                Operation.get("/instances", "listInstances", "Lists the lives of instances, newest first.")
                        .everywhere()
                        .takes(ALL, Call.AS_OF, Pages.FIELDS)
                        .answers(Answer.listOf("The lives.", "instance"))
                        .by(call -> Pages.all(
                                call, call.history().sessions(call.get(ALL).orElse(false)), Views::session)),
                Operation.get("/instances/{instance}", "readInstance", "Reads the lives of an instance, newest first.")
                        .everywhere()
                        .at(EXAMPLE)
                        .takes(Call.AS_OF)
                        .answers(Answer.listOf("The lives.", "instance"))
                        .by(ClusterResources::instance),
                Operation.of(
                                "PUT",
                                "/instances/{instance}/drain",
                                "drain",
                                "Asks an instance to drain: to lease nothing more, and to leave.")
                        .needs(Role.ADMIN)
                        .everywhere()
                        .at(EXAMPLE)
                        .sends(Map.of("because", "the machine is repaired"), Member.BECAUSE)
                        .answers(Answer.object(
                                "The sessions that were asked.",
                                "instance",
                                Map.of("type", "string"),
                                "sessions",
                                Map.of("type", "array", "items", Map.of("type", "string"))))
                        .by(ClusterResources::drain),
                Operation.get(
                                "/leases",
                                "listLeases",
                                "Lists the leases by name that code with a timer of its own holds.")
                        .everywhere()
                        .takes(Pages.FIELDS)
                        .answers(Answer.listOf("The leases.", "namedLease"))
                        .by(call -> {
                            Instant now = call.history().now();
                            return Pages.all(call, call.history().leases(), lease -> Views.lease(lease, now));
                        }),
                Operation.get(
                                "/limits",
                                "listLimits",
                                "Lists the limits that jobs share, and how many places are taken.")
                        .takes(Call.AS_OF, Pages.FIELDS)
                        .answers(Answer.listOf("The limits and keys.", "gate"))
                        .by(ClusterResources::limits),
                Operation.get("/calendars", "listCalendars", "Lists calendars, with their days.")
                        .takes(Pages.FIELDS)
                        .answers(Answer.listOf("The calendars.", "calendar"))
                        .by(ClusterResources::calendars));
    }

    private static Reply instance(Call call) {
        List<SessionView> lives = call.history().sessions(/* ended= */ true).stream()
                .filter(view -> view.row().instance().equals(call.place("instance")))
                .toList();
        if (lives.isEmpty()) {
            throw notThere(call);
        }
        return Pages.all(call, lives, Views::session);
    }

    private static Problem notThere(Call call) {
        return new Problem(
                Problem.Kind.NOT_THERE, "no instance '" + call.place("instance") + "' was ever here, or lives now");
    }

    private static Reply drain(Call call) {
        call.body();
        call.check();
        List<SessionRow> asked = call.orders().drain(call.place("instance"));
        if (asked.isEmpty()) {
            throw notThere(call);
        }
        return Reply.json(Views.object(
                "instance", call.place("instance"),
                "sessions", asked.stream().map(row -> row.id().toString()).toList()));
    }

    /** Names of the whole cluster concern everybody. */
    private static Reply limits(Call call) {
        Instant now = call.history().now();
        List<Gate> seen = call.history().gates().stream()
                .filter(gate ->
                        gate.key().kind() == GateKey.Kind.LIMIT || call.caller().mayEverywhere(Role.VIEWER))
                .filter(gate -> isSeen(call, gate.key().name()))
                .toList();
        return Pages.all(call, seen, gate -> Views.gate(gate, now));
    }

    private static boolean isSeen(Call call, String name) {
        return SharedName.isOfCluster(name) || call.caller().may(Role.VIEWER, SharedName.namespaceOf(name));
    }

    private static Reply calendars(Call call) {
        LocalDate today = LocalDate.ofInstant(call.history().now(), ZoneOffset.UTC);
        return Pages.all(
                call,
                call.history().calendars().stream()
                        .filter(view -> isSeen(call, view.row().name().toString()))
                        .toList(),
                view -> Views.calendar(view, today));
    }
}
