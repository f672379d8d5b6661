package dev.brume.http.internal.resource;

import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.OneOffAnswer;
import dev.brume.Role;
import dev.brume.RunHandle;
import dev.brume.definitions.Views;
import dev.brume.history.OneOffFilter;
import dev.brume.history.OneOffView;
import dev.brume.http.internal.web.Answer;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Member;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Pages;
import dev.brume.http.internal.web.Param;
import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Reply;
import dev.brume.internal.document.Fields;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.BiFunction;

/** One-offs: single runs ordered for an instant under a key. */
final class OneOffResources {
    private static final Param<String> PREFIX = Param.text("prefix", "Only those whose keys begin so.", 150, "bridge-");
    private static final Answer ANSWER = Answer.object(
            "What became of the order, and of which run it is.",
            "job",
            Map.of("type", "string"),
            "key",
            Map.of("type", "string"),
            "answer",
            Map.of("type", "string"),
            "run",
            Map.of("type", List.of("string", "null")));
    private static final String[] EXAMPLE = {"namespace", "harbour", "job", "bridge-closure", "key", "bridge-2027-05-14"
    };

    private OneOffResources() {}

    static List<Operation> operations() {
        return List.of(
                Operation.get("/one-offs", "listOneOffs", "Lists the one-offs that wait, earliest first.")
                        .takes(Shared.NAMESPACE, Shared.JOB, PREFIX, Pages.LIMIT, Pages.CURSOR, Pages.FIELDS)
                        .answers(Answer.listOf("The one-offs.", "oneOff"))
                        .by(OneOffResources::list),
                Operation.of(
                                "POST",
                                "/jobs/{namespace}/{job}/one-offs",
                                "addOneOff",
                                "Orders a single run for an instant.")
                        .says("A one-off of the key that waits already stays as it is, unless it is to be moved.")
                        .at("namespace", "harbour", "job", "bridge-closure")
                        .sends(
                                Map.of("key", "bridge-2027-05-14", "at", "2027-05-14T06:00:00Z", "because", "regatta"),
                                Member.text("key", "The caller's own; 1 to 150 characters.")
                                        .needed(),
                                Member.instant("at", "When it is owed."),
                                Member.text("in", "How long from now, such as 10m, instead of at."),
                                Member.any("payload", "What the run is given: a text, or JSON."),
                                Member.text("exclusive", "A key that no two runs have at once."),
                                Member.text(
                                        "once",
                                        "An order key: it is ordered once, however often it is asked for, as long as its run is on"
                                                + " record, and a day at least."),
                                Member.flag("moves", "Whether it takes the place of one of its key that waits."),
                                Member.BECAUSE)
                        .answers(ANSWER)
                        .by(OneOffResources::add),
                Operation.get("/jobs/{namespace}/{job}/one-offs/{key}", "readOneOff", "Reads a one-off.")
                        .at(EXAMPLE)
                        .answers(Answer.of("The one-off.", "oneOff"))
                        .by(OneOffResources::read),
                Operation.of(
                                "PATCH",
                                "/jobs/{namespace}/{job}/one-offs/{key}",
                                "moveOneOff",
                                "Moves a one-off that waits.")
                        .at(EXAMPLE)
                        .sends(
                                Map.of("at", "2027-05-14T07:00:00Z", "because", "the tide is late"),
                                Member.instant("at", "When it is owed from now on.")
                                        .needed(),
                                Member.BECAUSE)
                        .answers(ANSWER)
                        .by(OneOffResources::move),
                Operation.of(
                                "POST",
                                "/jobs/{namespace}/{job}/one-offs/{key}/erasures",
                                "eraseOneOff",
                                "Erases what the runs of a one-off were given, returned and printed.")
                        .says(
                                "The run that was made of it is meant, and what was rerun of that. Lines stay in the ledger.")
                        .needs(Role.ADMIN)
                        .at(EXAMPLE)
                        .sends(Map.of("because", "asked for by whom it is about"), RunResources.REASON_NEEDED)
                        .answers(Answer.listOf("What was erased.", "erased"))
                        .by(OneOffResources::erase),
                Operation.of(
                                "DELETE",
                                "/jobs/{namespace}/{job}/one-offs/{key}",
                                "dropOneOff",
                                "Drops a one-off that waits.")
                        .at(EXAMPLE)
                        .sends(Map.of("because", "the bridge stays open"), Member.BECAUSE)
                        .answers(ANSWER)
                        .by(OneOffResources::drop));
    }

    private static Reply list(Call call) {
        OneOffFilter filter = OneOffFilter.first(Pages.limit(call) + 1)
                .within(call.namespaces(call.get(Shared.NAMESPACE).map(Set::of).orElse(Set.of())));
        filter = call.get(Shared.JOB).map(filter::of).orElse(filter);
        filter = call.get(PREFIX).map(filter::withPrefix).orElse(filter);
        filter = Pages.cursor(call, OneOffResources::after).map(filter::after).orElse(filter);
        return Pages.reply(
                call,
                call.history().oneOffs(filter),
                view -> Shared.oneOff(call, view),
                view -> view.dueAt() + " " + view.run());
    }

    private static OneOffFilter.After after(String cursor) {
        String[] parts = cursor.split(" ");
        return new OneOffFilter.After(Instant.parse(parts[0]), Long.parseLong(parts[1]));
    }

    private static Reply add(Call call) {
        Fields body = call.body();
        Optional<String> key = body.text("key");
        Optional<Instant> at = Shared.instant(body, "at");
        Optional<Duration> wait = body.duration("in");
        Optional<String> payload = Shared.payload(body);
        Optional<String> exclusive = body.text("exclusive");
        Optional<String> once = body.text("once");
        boolean moves = body.flag("moves").orElse(false);
        if (body.has("at") == body.has("in")) {
            body.noteHere("expected either at or in");
        }
        call.check();
        JobName name = call.job().name();
        Shared.checkReadable(call, payload);
        Optional<OneOff> wanted = body.read("key", () -> OneOff.of(name, key.orElseThrow()));
        wanted = wanted.map(each -> at.map(each::at).orElseGet(() -> each.in(wait.orElse(Duration.ZERO))));
        wanted = with(body, "payload", wanted, payload, OneOff::payload);
        wanted = with(body, "exclusive", wanted, exclusive, OneOff::exclusive);
        wanted = with(body, "once", wanted, once, OneOff::once);
        call.check();
        OneOffAnswer answer = moves
                ? call.orders().oneOffs().addOrMove(wanted.orElseThrow())
                : call.orders().oneOffs().add(wanted.orElseThrow());
        return reply(name, key.orElseThrow(), answer, answer.kind() == OneOffAnswer.Kind.ADDED ? 201 : 200)
                .with(
                        "Location",
                        call.incoming().base() + "/api/v1/jobs/" + name.namespace() + "/" + name.name() + "/one-offs/"
                                + URLEncoder.encode(key.get(), StandardCharsets.UTF_8)
                                        .replace("+", "%20"));
    }

    private static Optional<OneOff> with(
            Fields body,
            String member,
            Optional<OneOff> wanted,
            Optional<String> text,
            BiFunction<OneOff, String, OneOff> setter) {
        return text.isEmpty()
                ? wanted
                : wanted.flatMap(each -> body.read(member, () -> setter.apply(each, text.get())));
    }

    private static Reply reply(JobName job, String key, OneOffAnswer answer, int status) {
        return Reply.json(
                status,
                Views.object(
                        "job",
                        job,
                        "key",
                        key,
                        "answer",
                        answer.kind(),
                        "run",
                        answer.run().map(RunHandle::id).map(String::valueOf)));
    }

    private static Reply read(Call call) {
        JobName name = call.job().name();
        OneOffView view = call.history().oneOff(name, call.place("key")).orElseThrow(() -> notThere(call, name));
        return Reply.json(Shared.oneOff(call, view));
    }

    private static Problem notThere(Call call, JobName name) {
        return new Problem(Problem.Kind.NOT_THERE, "there is no one-off '" + call.place("key") + "' of '" + name + "'");
    }

    private static Reply erase(Call call) {
        call.body();
        call.check();
        JobName name = call.job().name();
        boolean waits = call.history()
                .oneOff(name, call.place("key"))
                .filter(view -> !view.made())
                .isPresent();
        try {
            return Reply.json(call.orders().erase(name, call.place("key")).stream()
                    .map(Views::erased)
                    .toList());
        } catch (IllegalArgumentException e) {
            throw waits ? new Problem(Problem.Kind.CONFLICT, String.valueOf(e.getMessage())) : e;
        }
    }

    private static Reply move(Call call) {
        Fields body = call.body();
        Optional<Instant> at = Shared.instant(body, "at");
        call.check();
        JobName name = call.job().name();
        return changed(call, name, call.orders().oneOffs().move(name, call.place("key"), at.orElseThrow()));
    }

    private static Reply drop(Call call) {
        call.body();
        call.check();
        JobName name = call.job().name();
        return changed(call, name, call.orders().oneOffs().drop(name, call.place("key")));
    }

    private static Reply changed(Call call, JobName name, OneOffAnswer answer) {
        if (answer.kind() == OneOffAnswer.Kind.NOT_THERE) {
            throw notThere(call, name);
        }
        if (answer.kind() == OneOffAnswer.Kind.ALREADY_RAN) {
            throw new Problem(
                            Problem.Kind.CONFLICT,
                            "the run of one-off '" + call.place("key") + "' has been made: it is run "
                                    + answer.run()
                                            .map(run -> String.valueOf(run.id()))
                                            .orElse("unknown")
                                    + ", which can be cancelled")
                    .about("run", answer.run().map(run -> String.valueOf(run.id())));
        }
        return reply(name, call.place("key"), answer, 200);
    }
}
