package dev.brume.cli;

import dev.brume.Attempt;
import dev.brume.history.ChangeView;
import dev.brume.history.RunView;
import java.util.List;
import java.util.Map;

/** The rows of an export, the same fields in every form. */
final class ExportRows {
    /** The fields of a ledger line, in their order. */
    static final List<String> LEDGER = List.of(
            "run",
            "job",
            "planned",
            "nominal",
            "zone",
            "note",
            "slot",
            "origin",
            "parent",
            "orderedBy",
            "version",
            "lane",
            "readyAt",
            "outcome",
            "reason",
            "startedAt",
            "endedAt",
            "instance",
            "fence",
            "error",
            "payload",
            "result",
            "attempts");

    /** The fields of a line of the change log, in their order. */
    static final List<String> CHANGES =
            List.of("line", "at", "kind", "who", "host", "job", "versionBefore", "versionAfter", "text", "because");

    private ExportRows() {}

    static Map<String, Object> of(RunView run) {
        return JsonOut.object(
                "run", run.id(),
                "job", run.job(),
                "planned", run.owed().planned(),
                "nominal", run.owed().nominal(),
                "zone", run.owed().zone(),
                "note", run.owed().note(),
                "slot", run.owed().slot().isEmpty() ? null : run.owed().slot(),
                "origin", run.owed().origin().name(),
                "parent", run.owed().parent(),
                "orderedBy", run.owed().orderedBy(),
                "version", run.version(),
                "lane", run.lane(),
                "readyAt", run.readyAt(),
                "outcome", run.outcome().map(Enum::name),
                "reason", run.reason(),
                "startedAt", run.attempts().stream().findFirst().map(Attempt::startedAt),
                "endedAt", run.lastAttempt().flatMap(Attempt::endedAt),
                "instance", run.lastAttempt().map(Attempt::instance),
                "fence", run.lastAttempt().map(Attempt::fence),
                "error", run.lastAttempt().flatMap(Attempt::error),
                "payload", run.payload(),
                "result", run.result(),
                "attempts", run.attempts().stream().map(ExportRows::of).toList());
    }

    private static Map<String, Object> of(Attempt attempt) {
        return JsonOut.object(
                "attempt", attempt.number(),
                "instance", attempt.instance(),
                "fence", attempt.fence(),
                "startedAt", attempt.startedAt(),
                "endedAt", attempt.endedAt(),
                "end", attempt.end().map(Enum::name),
                "error", attempt.error());
    }

    static Map<String, Object> of(ChangeView view) {
        return JsonOut.object(
                "line", view.id(),
                "at", view.at(),
                "kind", view.change().kind(),
                "who", view.change().who(),
                "host", view.change().host(),
                "job", view.change().job(),
                "versionBefore", view.change().versionBefore(),
                "versionAfter", view.change().versionAfter(),
                "text", view.change().text(),
                "because",
                        view.change().because().isEmpty() ? null : view.change().because());
    }
}
