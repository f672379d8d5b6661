package dev.brume.http.internal.resource;

import dev.brume.Role;
import dev.brume.definitions.Views;
import dev.brume.http.internal.web.Answer;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Member;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Param;
import dev.brume.http.internal.web.Reply;
import dev.brume.internal.document.Fields;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;

/** Where definitions come from: which revision of a source was applied last, and that an older one may be. */
final class SourceResources {
    private static final Param<String> SOURCE = Param.text(
            "source",
            "A file's name, or api for jobs defined in code; NAMESPACE:FILE for the file of a namespace; http unless given.",
            300,
            "harbour.yaml");
    private static final Map<String, Object> TEXT = Map.of("type", "string");

    private SourceResources() {}

    static List<Operation> operations() {
        return List.of(
                Operation.get(
                                "/revisions",
                                "readRevision",
                                "Reads the highest revision of a source of definitions that was ever applied.")
                        .takes(SOURCE)
                        .answers(Answer.object(
                                "The revision; null if none was stated.",
                                "source",
                                TEXT,
                                "revision",
                                Map.of("type", List.of("integer", "null"))))
                        .by(SourceResources::revision),
                Operation.of(
                                "POST",
                                "/acceptances",
                                "acceptSource",
                                "Lets the next definitions of a source be put in force, however old they are.")
                        .says("To go back on purpose. What is in force stays until then.")
                        .needs(Role.ADMIN)
                        .everywhere()
                        .sends(
                                Map.of("source", "api", "because", "back to build 41"),
                                Member.text("source", "Where they come from.").needed(),
                                Member.BECAUSE)
                        .answers(Answer.object(
                                "How many of its jobs are in force.",
                                "source",
                                TEXT,
                                "jobs",
                                Map.of("type", "integer")))
                        .by(SourceResources::accept));
    }

    private static Reply revision(Call call) {
        String source = call.get(SOURCE).orElse("http");
        int colon = source.indexOf(':');
        if (colon > 0) {
            call.mustBeAllowed(source.substring(0, colon), "source '" + source + "' that you may look at");
        }
        OptionalLong revision = call.history().revision(source);
        return Reply.json(
                Views.object("source", source, "revision", revision.isPresent() ? revision.getAsLong() : null));
    }

    private static Reply accept(Call call) {
        Fields body = call.body();
        Optional<String> source = body.text("source");
        call.check();
        int jobs = call.orders().accept(source.orElseThrow());
        return Reply.json(Views.object("source", source.get(), "jobs", jobs));
    }
}
