package dev.brume.http.internal.resource;

import dev.brume.definitions.Views;
import dev.brume.http.internal.web.Answer;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Reply;
import java.time.Instant;
import java.util.List;
import java.util.Map;

/** What answers, what time it has, and who asks. */
final class SelfResource {
    private static final Map<String, Object> TEXT = Map.of("type", "string");

    private SelfResource() {}

    static List<Operation> operations() {
        return List.of(Operation.get("/self", "readSelf", "Says what time it is here, and who you are to it.")
                .answers(Answer.object(
                        "The database's time, and the caller with their roles.",
                        "now",
                        Map.of("type", "string", "format", "date-time"),
                        "instances",
                        Map.of("type", "integer", "description", "How many live."),
                        "name",
                        TEXT,
                        "roles",
                        Map.of(
                                "type",
                                "array",
                                "items",
                                Map.of(
                                        "type",
                                        "object",
                                        "properties",
                                        Map.of(
                                                "role",
                                                TEXT,
                                                "namespaces",
                                                Map.of("type", List.of("array", "null"), "items", TEXT))))))
                .by(SelfResource::self));
    }

    private static Reply self(Call call) {
        Instant now = call.history().now();
        return Reply.json(Views.object(
                "now",
                now,
                "instances",
                call.history().sessions(/* ended= */ false).stream()
                        .filter(session -> !session.row().lapsedAt(now))
                        .count(),
                "name",
                call.caller().name(),
                "roles",
                call.caller().grants().stream()
                        .map(grant -> Views.object(
                                "role",
                                grant.role(),
                                "namespaces",
                                grant.isEverywhere() ? null : List.copyOf(grant.namespaces())))
                        .toList()));
    }
}
