package dev.brume.http.internal.resource;

import dev.brume.Allowance;
import dev.brume.Role;
import dev.brume.definitions.Views;
import dev.brume.http.internal.web.Answer;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Member;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Pages;
import dev.brume.http.internal.web.Reply;
import dev.brume.internal.document.AllowanceDocument;
import dev.brume.internal.document.Fields;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** Namespaces: what their jobs may be and use. */
final class NamespaceResources {
    private static final Map<String, Object> NAME = Map.of("type", "string");
    private static final Map<String, Object> ALLOWANCE =
            Map.of("anyOf", List.of(Map.of("$ref", "#/components/schemas/allowance"), Map.of("type", "null")));
    private static final Answer CHANGED = Answer.object(
            "What they may be and use, and what it was before.",
            "namespace",
            NAME,
            "allowance",
            ALLOWANCE,
            "before",
            ALLOWANCE);

    private NamespaceResources() {}

    static List<Operation> operations() {
        return List.of(
                Operation.get("/namespaces", "listNamespaces", "Lists namespaces, with what their jobs may be and use.")
                        .takes(Pages.FIELDS)
                        .answers(Answer.listOf("The namespaces.", "namespace"))
                        .by(call -> Pages.all(
                                call,
                                call.history().namespaces().stream()
                                        .filter(view -> call.caller().may(Role.VIEWER, view.name()))
                                        .toList(),
                                Views::namespace)),
                Operation.of(
                                "PUT",
                                "/namespaces/{namespace}/allowance",
                                "setAllowance",
                                "Sets what the jobs of a namespace may be and use from now on.")
                        .says("What is not bounded is left out, and may be anything. What is defined already stays.")
                        .needs(Role.ADMIN)
                        .everywhere()
                        .at("namespace", "ferry")
                        .sends(
                                Map.of("jobs", 200, "interval", "5m", "because", "tenant of pier 7"),
                                Member.number("jobs", "At most so many jobs."),
                                Member.text("interval", "Occurrences of a job are at least so far apart."),
                                Member.texts("work", "Only these kinds of work: handler, program, request."),
                                Member.texts("handlers", "Only handlers named so."),
                                Member.texts("lanes", "Only these lanes."),
                                Member.number("payload", "Payloads of at most so many characters, 1000 or more."),
                                Member.texts(
                                        "shared",
                                        "Limits, keys and calendars of the whole cluster that it may use; /* is all."),
                                Member.texts(
                                        "followUps",
                                        "Jobs of other namespaces that may follow its own; NAMESPACE/* is all of one."),
                                Member.BECAUSE)
                        .answers(CHANGED)
                        .by(NamespaceResources::allow),
                Operation.of(
                                "DELETE",
                                "/namespaces/{namespace}/allowance",
                                "dropAllowance",
                                "Lets the jobs of a namespace be and use anything again.")
                        .needs(Role.ADMIN)
                        .everywhere()
                        .at("namespace", "ferry")
                        .sends(Map.of("because", "the tenant is gone"), Member.BECAUSE)
                        .answers(CHANGED)
                        .by(NamespaceResources::allowAnything),
                Operation.of(
                                "DELETE",
                                "/namespaces/{namespace}/jobs",
                                "dropJobs",
                                "Drops all jobs of a namespace: they owe nothing any more.")
                        .says("Their names become free, their history stays.")
                        .needs(Role.AUTHOR)
                        .at("namespace", "harbour")
                        .sends(Map.of("because", "the ferry is sold"), Member.BECAUSE)
                        .answers(Answer.object(
                                "How many were dropped.", "namespace", NAME, "jobs", Map.of("type", "integer")))
                        .by(NamespaceResources::dropJobs));
    }

    private static Reply allow(Call call) {
        Fields body = call.body();
        Optional<Allowance> allowance = AllowanceDocument.read(body);
        call.check();
        Optional<Allowance> before = call.orders().allow(call.place("namespace"), allowance.orElseThrow());
        return changed(call, allowance, before);
    }

    private static Reply allowAnything(Call call) {
        call.body();
        call.check();
        return changed(call, Optional.empty(), call.orders().allowAnything(call.place("namespace")));
    }

    private static Reply changed(Call call, Optional<Allowance> allowance, Optional<Allowance> before) {
        return Reply.json(Views.object(
                "namespace", call.place("namespace"),
                "allowance", allowance.map(AllowanceDocument::write),
                "before", before.map(AllowanceDocument::write)));
    }

    private static Reply dropJobs(Call call) {
        call.body();
        call.check();
        String namespace = call.place("namespace");
        return Reply.json(
                Views.object("namespace", namespace, "jobs", call.orders().dropAll(namespace)));
    }
}
