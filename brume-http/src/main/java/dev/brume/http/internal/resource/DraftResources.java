package dev.brume.http.internal.resource;

import dev.brume.JobName;
import dev.brume.Role;
import dev.brume.definitions.Views;
import dev.brume.http.internal.draft.Draft;
import dev.brume.http.internal.draft.Seen;
import dev.brume.http.internal.draft.Timed;
import dev.brume.http.internal.web.Answer;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Member;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Reply;
import dev.brume.internal.document.Fields;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletionStage;

/** Definitions that somebody is working on, and schedules that somebody chooses: what they come to. Nothing is kept. */
final class DraftResources {
    private static final String UNNAMED = "unnamed";
    private static final Map<String, Object> FRIDAYS = Views.object(
            "pattern", "times",
            "days", "weekdayOfMonth",
            "which", "last",
            "weekday", "FRI",
            "times", "17:00",
            "zone", "Europe/Lisbon");

    private final NameRules rules;
    private final Bench looks = new Bench(8, "draft");

    private DraftResources(NameRules rules) {
        this.rules = rules;
    }

    static List<Operation> operations(NameRules rules) {
        DraftResources own = new DraftResources(rules);
        return List.of(
                Operation.of("POST", "/drafts", "draft", "Says what a definition would come to; nothing is kept.")
                        .says(
                                "Form and document are made of each other: what was filled in is put into the document, and the form is read"
                                        + " from it. It tells what is wrong and at which field, when the job would run, what would change, and"
                                        + " what somebody else changed since.")
                        .needs(Role.AUTHOR)
                        .sends(
                                Views.object(
                                        "namespace", "harbour",
                                        "name", "dues-reminder",
                                        "form", Views.object("work", "handler", "handler", "dues", "when", FRIDAYS)),
                                Member.text("namespace", "Of the job; main unless given."),
                                Member.text("name", "Of the job."),
                                Member.text(
                                        "document", "The definition as text, in YAML or JSON; empty for a new one."),
                                Member.any(
                                        "form",
                                        "What was filled in: " + String.join(", ", Draft.FIELDS)
                                                + "; when has the parts of a sentence."),
                                Member.text(
                                        "seen", "The ETag of the definition that it began with; none for a new job."))
                        .answers(Answer.of("What it comes to.", "drafted"))
                        .byAndBy(own::draft),
                Operation.of(
                                "POST",
                                "/timings",
                                "chooseTimes",
                                "Makes a schedule of the parts of a sentence, and says when it is due.")
                        .says(
                                "Or reads one that is written. With a namespace its calendars and its allowance are held against it.")
                        .needs(Role.VIEWER)
                        .sends(
                                Map.of("parts", FRIDAYS),
                                Member.any("parts", "The parts of the sentence."),
                                Member.any("when", "A schedule as a definition has it under when, to be read instead."),
                                Member.text("namespace", "Whose calendars and allowance are meant; none unless given."))
                        .answers(Answer.of("The schedule.", "timed"))
                        .byAndBy(own::timing));
    }

    private CompletionStage<Reply> draft(Call call) {
        Fields body = call.body();
        String namespace = body.text("namespace").map(String::strip).orElse(JobName.MAIN);
        String name = body.text("name").map(String::strip).orElse("");
        String document = body.text("document").orElse("");
        Optional<Seen> seen = body.text("seen")
                .filter(text -> !text.isBlank())
                .flatMap(text -> body.read(
                        "seen",
                        () -> Seen.read(text)
                                .orElseThrow(() ->
                                        new IllegalArgumentException("is no ETag of a definition, such as \"17.3\""))));
        Optional<Fields> form = body.raw("form").isPresent() ? body.mapping("form", Draft.FIELDS) : Optional.empty();
        // A form that has members which no form has is refused as such; what is typed into its fields is told with the
        // draft.
        call.check();
        return looks.work(call.limits().seconds(), () -> {
            if (!JobName.isName(namespace) || !call.caller().may(Role.AUTHOR, namespace)) {
                return Reply.json(Draft.elsewhere(call.caller(), namespace, document));
            }
            boolean named = JobName.isName(name);
            Draft draft = new Draft(
                    call.history(),
                    call.caller(),
                    (defined, path) -> rules.refusals(call.history(), defined, path),
                    DefinitionResources.SOURCE,
                    new JobName(namespace, named ? name : UNNAMED));
            if (!named) {
                draft.unnamed(name);
            }
            return Reply.json(draft.view(document, form, seen));
        });
    }

    private CompletionStage<Reply> timing(Call call) {
        Fields body = call.body();
        Optional<String> namespace = body.text("namespace");
        if (body.has("parts") == body.has("when")) {
            body.noteHere("expected either parts or when");
        }
        call.check();
        namespace.ifPresent(name -> call.mustBeAllowed(name, "namespace '" + name + "' that you may look at"));
        Optional<Object> parts = body.raw("parts");
        Object when = body.raw("when").orElse(List.of());
        return looks.work(
                call.limits().seconds(), () -> Reply.json(new Timed(call.history(), namespace).view(parts, when)));
    }
}
