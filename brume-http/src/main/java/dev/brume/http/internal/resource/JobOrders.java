package dev.brume.http.internal.resource;

import dev.brume.DefinitionsSeen;
import dev.brume.JobName;
import dev.brume.Orders;
import dev.brume.Role;
import dev.brume.RunHandle;
import dev.brume.definitions.Views;
import dev.brume.http.internal.web.Answer;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Member;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Reply;
import dev.brume.internal.document.Fields;
import dev.brume.schedule.Occurrence;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletionStage;

/** Orders about one job. */
final class JobOrders {
    private static final Map<String, Object> BECAUSE = Map.of("because", "the tide gauge was repaired");

    private JobOrders() {}

    static List<Operation> operations() {
        return List.of(
                Operation.of("POST", "/jobs/{namespace}/{job}/runs", "runNow", "Starts a job now, paused or not.")
                        .says("With Prefer: wait=N it answers when the run has ended, or after N seconds.")
                        .at(Shared.EXAMPLE_JOB)
                        .sends(
                                BECAUSE,
                                Member.any(
                                        "payload",
                                        "What the run is given: a text, or JSON; the job's own unless given."),
                                Member.BECAUSE)
                        .answers(Answer.of("The run.", "run").with(201))
                        .byAndBy(JobOrders::runNow),
                Operation.of(
                                "POST",
                                "/jobs/{namespace}/{job}/skips",
                                "skipNext",
                                "Leaves the next occurrence of a job out.")
                        .at(Shared.EXAMPLE_JOB)
                        .sends(BECAUSE, Member.BECAUSE)
                        .answers(Answer.object(
                                "What is left out; null if nothing is to come.",
                                "job",
                                Map.of("type", "string"),
                                "skipped",
                                Map.of(
                                        "anyOf",
                                        List.of(
                                                Map.of("$ref", "#/components/schemas/occurrence"),
                                                Map.of("type", "null")))))
                        .by(JobOrders::skip),
                Operation.of(
                                "POST",
                                "/jobs/{namespace}/{job}/backfills",
                                "backfill",
                                "Runs what a job owed in a period and no run was ever made of.")
                        .says("With dryRun nothing is ordered, and what is missing is told.")
                        .at(Shared.EXAMPLE_JOB)
                        .sends(
                                Map.of("from", "2026-11-20T00:00:00Z", "until", "2026-11-21T00:00:00Z", "dryRun", true),
                                Member.instant("from", "Where the period begins, inclusive.")
                                        .needed(),
                                Member.instant("until", "Where the period ends, exclusive; now unless given."),
                                Member.flag("dryRun", "Whether it only says what would run."),
                                Member.BECAUSE)
                        .answers(Answer.object(
                                "What was missing, and the runs that were ordered for it.",
                                "job",
                                Map.of("type", "string"),
                                "missing",
                                Map.of("type", "array", "items", Map.of("$ref", "#/components/schemas/occurrence")),
                                "runs",
                                Map.of("type", "array", "items", Map.of("type", "string"))))
                        .by(JobOrders::backfill),
                Operation.of(
                                "PATCH",
                                "/jobs/{namespace}/{job}",
                                "renameJob",
                                "Gives a job another name in its namespace.")
                        .says("Its history, versions and one-offs stay with it.")
                        .needs(Role.AUTHOR)
                        .at("namespace", "harbour", "job", "tide-tables")
                        .sends(
                                Map.of("name", "tide-tables-2", "because", "two sets of tables from now on"),
                                Member.text("name", "The other name.").needed(),
                                Member.BECAUSE)
                        .answers(Answer.object(
                                "The job's name, and the jobs that it follows.",
                                "job",
                                Map.of("type", "string"),
                                "followed",
                                Map.of("type", "array", "items", Map.of("type", "string"))))
                        .by(JobOrders::rename),
                Operation.of("DELETE", "/jobs/{namespace}/{job}", "dropJob", "Drops a job: it owes nothing any more.")
                        .says("Its name becomes free, its history stays. With If-Match only if it is what was seen.")
                        .needs(Role.AUTHOR)
                        .at("namespace", "harbour", "job", "notice-to-mariners")
                        .sends(BECAUSE, Member.BECAUSE)
                        .answers(Answer.nothing("It is dropped."))
                        .by(JobOrders::drop));
    }

    private static CompletionStage<Reply> runNow(Call call) {
        Fields body = call.body();
        Optional<String> payload = Shared.payload(body);
        call.check();
        JobName name = call.job().name();
        Shared.checkReadable(call, payload);
        Orders orders = call.orders();
        RunHandle run = payload.map(text -> orders.runNow(name, text)).orElseGet(() -> orders.runNow(name));
        return RunReply.ofOrdered(call, run.id());
    }

    private static Reply skip(Call call) {
        call.body();
        call.check();
        JobName name = call.job().name();
        Optional<Occurrence> skipped = call.orders().skipNext(name);
        return Reply.json(Views.object("job", name, "skipped", skipped.map(Views::occurrence)));
    }

    private static Reply backfill(Call call) {
        Fields body = call.body();
        Optional<Instant> from = Shared.instant(body, "from");
        Optional<Instant> until = Shared.instant(body, "until");
        boolean dryRun = body.flag("dryRun").orElse(false);
        call.check();
        JobName name = call.job().name();
        Instant end = until.orElseGet(() -> call.history().now());
        Orders orders = call.orders();
        List<Occurrence> missing = dryRun ? orders.missing(name, from.orElseThrow(), end) : List.of();
        List<RunHandle> runs = dryRun ? List.of() : orders.backfill(name, from.orElseThrow(), end);
        return Reply.json(Views.object(
                "job", name,
                "missing", missing.stream().map(Views::occurrence).toList(),
                "runs", runs.stream().map(run -> String.valueOf(run.id())).toList()));
    }

    private static Reply rename(Call call) {
        Fields body = call.body();
        Optional<JobName> to =
                body.text("name").flatMap(text -> body.read("name", () -> new JobName(call.place("namespace"), text)));
        call.check();
        List<JobName> followed = call.orders().rename(call.job().name(), to.orElseThrow());
        return Reply.json(Views.object(
                "job",
                to.orElseThrow(),
                "followed",
                followed.stream().map(JobName::toString).toList()));
    }

    private static Reply drop(Call call) {
        call.body();
        call.check();
        JobName name = call.job().name();
        Optional<DefinitionsSeen> seen = Tags.seen(call, name);
        boolean dropped = seen.map(versions -> call.orders().drop(name, versions))
                .orElseGet(() -> call.orders().drop(name));
        if (!dropped) {
            throw new Problem(Problem.Kind.NOT_THERE, "there is no job '" + name + "'");
        }
        return Reply.nothing(204);
    }
}
