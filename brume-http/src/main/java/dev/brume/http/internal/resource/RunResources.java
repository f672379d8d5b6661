package dev.brume.http.internal.resource;

import dev.brume.Cancelled;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.Role;
import dev.brume.RunHandle;
import dev.brume.RunState;
import dev.brume.definitions.Views;
import dev.brume.history.Erased;
import dev.brume.history.Output;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.http.internal.web.Answer;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Member;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Pages;
import dev.brume.http.internal.web.Param;
import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Reply;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CompletionStage;
import java.util.stream.Collectors;

/** Runs: looked for, read with what they printed, cancelled, run once more. */
final class RunResources {
    private static final Param<Outcome> OUTCOME = Param.word("outcome", "Only runs that ended so.", Outcome.values());
    private static final Param<RunState> STATE =
            Param.word("state", "Only live runs that stand so.", RunState.values());
    private static final Param<Origin> ORIGIN =
            Param.word("origin", "Only runs that are owed to this.", Origin.values());
    private static final Param<String> REASON =
            Param.text("reason", "Only runs with this reason on record.", 100, "OVERLAP");
    private static final Param<String> INSTANCE =
            Param.text("instance", "Only runs whose last attempt this instance carried out.", 200, "quay-1");
    private static final Param<String> ERROR =
            Param.text("error", "Only ended runs whose last error has this in it.", 200, "no ink");
    private static final Param<String> KEY =
            Param.text("key", "Only runs of one-offs that were ordered under this key.", 200, "bridge-2027-05-14");
    private static final Param<Integer> ATTEMPT = Param.number(
            "attempt", "Of this attempt; of the last that printed anything unless given.", 1, 1_000_000, 1);
    private static final String[] EXAMPLE = {"run", "1"};
    private static final Map<String, Object> BECAUSE = Map.of("because", "the printer has paper again");

    private RunResources() {}

    static List<Operation> operations() {
        return List.of(
                Operation.get("/runs", "listRuns", "Lists runs, live ones and ended ones, newest planned first.")
                        .takes(
                                Shared.NAMESPACE,
                                Shared.JOB,
                                Shared.TAG,
                                OUTCOME,
                                STATE,
                                Shared.FROM,
                                Shared.UNTIL,
                                REASON,
                                INSTANCE,
                                ORIGIN,
                                ERROR,
                                KEY,
                                Pages.LIMIT,
                                Pages.CURSOR,
                                Pages.FIELDS)
                        .answers(Answer.listOf("The runs.", "run"))
                        .by(RunResources::list),
                Operation.get(
                                "/runs/{run}",
                                "readRun",
                                "Reads a run in full: attempts, instances, fences, what it printed.")
                        .says("With Prefer: wait=N it answers when the run has ended, or after N seconds.")
                        .at(EXAMPLE)
                        .answers(Answer.of("The run.", "shown"))
                        .byAndBy(call -> RunReply.of(call, Shared.run(call).id(), 200)),
                Operation.get("/runs/{run}/output", "readOutput", "Reads what an attempt of a run printed, as text.")
                        .at(EXAMPLE)
                        .takes(ATTEMPT)
                        .answers(Answer.text("What it printed.", "text/plain"))
                        .by(RunResources::output),
                Operation.of("POST", "/runs/{run}/cancellations", "cancelRun", "Cancels a run.")
                        .says("One that waits ends at once; one that runs is told, and interrupted after a while.")
                        .at(EXAMPLE)
                        .sends(BECAUSE, Member.BECAUSE)
                        .answers(Answer.object(
                                "What became of the order.",
                                "run",
                                Map.of("type", "string"),
                                "cancelled",
                                Map.of("type", "string", "enum", List.of("ENDED", "ASKED", "ALREADY_ENDED"))))
                        .by(RunResources::cancel),
                Operation.of("POST", "/runs/{run}/reruns", "rerun", "Runs once more what an ended run was owed to.")
                        .says(
                                "The same planned instant and payload, under the definition in force. With Prefer: wait=N it answers"
                                        + " when the new run has ended.")
                        .at(EXAMPLE)
                        .sends(BECAUSE, Member.BECAUSE)
                        .answers(Answer.of("The new run.", "run").with(201))
                        .byAndBy(RunResources::rerun),
                Operation.of(
                                "POST",
                                "/runs/{run}/erasures",
                                "eraseRun",
                                "Erases what a run was given, returned and printed.")
                        .says("Its line stays in the ledger, with digests of what it held, so that seals hold.")
                        .needs(Role.ADMIN)
                        .at(EXAMPLE)
                        .sends(BECAUSE, new Member("because", true, Member.BECAUSE.schema()))
                        .answers(Answer.object(
                                "What was erased, in words.",
                                "run",
                                Map.of("type", "string"),
                                "erased",
                                Map.of("type", List.of("string", "null"))))
                        .by(RunResources::erase));
    }

    private static Reply list(Call call) {
        RunFilter filter = RunFilter.newest(Pages.limit(call) + 1)
                .within(call.namespaces(call.get(Shared.NAMESPACE).map(Set::of).orElse(Set.of())));
        filter = call.get(Shared.JOB).map(filter::of).orElse(filter);
        filter = call.get(Shared.TAG).map(filter::withTag).orElse(filter);
        filter = call.get(OUTCOME).map(filter::withOutcome).orElse(filter);
        filter = call.get(STATE).map(filter::withState).orElse(filter);
        filter = call.get(Shared.FROM).map(filter::from).orElse(filter);
        filter = call.get(Shared.UNTIL).map(filter::until).orElse(filter);
        filter = call.get(REASON).map(filter::withReason).orElse(filter);
        filter = call.get(INSTANCE).map(filter::on).orElse(filter);
        filter = call.get(ORIGIN).map(filter::withOrigin).orElse(filter);
        filter = call.get(ERROR).map(filter::withError).orElse(filter);
        filter = call.get(KEY).map(filter::withKey).orElse(filter);
        filter = Pages.cursor(call, RunResources::below).map(filter::below).orElse(filter);
        return Pages.reply(
                call, call.history().runs(filter), Views::run, run -> run.owed().planned() + " " + run.id());
    }

    private static RunFilter.Below below(String cursor) {
        String[] parts = cursor.split(" ");
        return new RunFilter.Below(Instant.parse(parts[0]), Long.parseLong(parts[1]));
    }

    private static Reply output(Call call) {
        RunView run = Shared.run(call);
        Optional<Integer> attempt =
                call.get(ATTEMPT).or(() -> run.outputs().keySet().stream().max(Integer::compare));
        Optional<Output> output = attempt.map(run.outputs()::get);
        if (output.isEmpty()) {
            throw new Problem(
                    Problem.Kind.NOT_THERE,
                    call.get(ATTEMPT).isPresent()
                            ? "attempt " + call.get(ATTEMPT).get() + " of run " + run.id()
                                    + " has printed nothing, or has not ended"
                            : "run " + run.id() + " has printed nothing so far");
        }
        return Reply.of(200, "text/plain", output.get().text())
                .with("Content-Disposition", "inline; filename=\"run-" + run.id() + ".txt\"");
    }

    private static Reply cancel(Call call) {
        call.body();
        call.check();
        RunView run = Shared.run(call);
        Cancelled cancelled = call.orders().cancel(run.id());
        return Reply.json(Views.object("run", run.id(), "cancelled", cancelled));
    }

    private static CompletionStage<Reply> rerun(Call call) {
        call.body();
        call.check();
        RunHandle rerun = call.orders().rerun(Shared.run(call).id());
        return RunReply.of(call, rerun.id(), 201);
    }

    private static Reply erase(Call call) {
        call.body();
        call.check();
        RunView run = Shared.run(call);
        String words = call.orders().erase(run.id()).stream()
                .map(Erased::content)
                .map(content -> content.words())
                .collect(Collectors.joining("; "));
        return Reply.json(Views.object("run", run.id(), "erased", words.isEmpty() ? null : words));
    }
}
