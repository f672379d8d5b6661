package dev.brume.definitions;

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
            "notes",
            "slot",
            "origin",
            "follows",
            "orderedBy",
            "version",
            "lane",
            "readyAt",
            "outcome",
            "reason",
            "startedAt",
            "endedAt",
            "lateMillis",
            "durationMillis",
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
        return only(LEDGER, Views.run(run));
    }

    static Map<String, Object> of(ChangeView view) {
        return only(CHANGES, Views.change(view));
    }

    private static Map<String, Object> only(List<String> members, Map<String, Object> all) {
        all.keySet().retainAll(members);
        return all;
    }
}
