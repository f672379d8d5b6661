package dev.brume.http.internal.resource;

import dev.brume.Cancelled;
import dev.brume.Role;
import dev.brume.RunHandle;
import dev.brume.definitions.Views;
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

/** Runs: looked for, read with what they printed, cancelled, run once more. */
final class RunResources {
    private static final Param<Long> BELOW = new Param<>(
            "below",
            "Only those below this run, as the list is ordered.",
            Map.of("type", "string", "pattern", "^[0-9]{1,18}$"),
            "17",
            Param::id);
    private static final Param<Integer> ATTEMPT = Param.number(
            "attempt", "Of this attempt; of the last that printed anything unless given.", 1, 1_000_000, 1);
    private static final String[] EXAMPLE = {"run", "1"};
    private static final Map<String, Object> BECAUSE = Map.of("because", "the printer has paper again");

    /** Of orders that nobody can take back. */
    static final Member REASON_NEEDED = Member.BECAUSE.needed();

    private RunResources() {}

    static List<Operation> operations() {
        return List.of(
                Operation.get("/runs", "listRuns", "Lists runs, live ones and ended ones, newest planned first.")
                        .takes(RunChoice.params())
                        .takes(BELOW, Call.AS_OF, Pages.LIMIT, Pages.CURSOR, Pages.FIELDS)
                        .answers(Answer.listOf("The runs.", "run"))
                        .by(RunResources::list),
                Operation.get(
                                "/spans",
                                "listSpans",
                                "Lists spans, newest first: occurrences that did not run for one reason, such as MISSED or PAUSED.")
                        .takes(
                                Shared.NAMESPACE,
                                Shared.JOB,
                                RunChoice.REASON,
                                Shared.FROM,
                                Shared.UNTIL,
                                Pages.LIMIT,
                                Pages.FIELDS)
                        .answers(Answer.listOf("The spans.", "span"))
                        .by(RunResources::spans),
                Operation.get(
                                "/runs/{run}",
                                "readRun",
                                "Reads a run in full: attempts, instances, fences, what it printed.")
                        .says("With Prefer: wait=N it answers when the run has ended, or after N seconds.")
                        .at(EXAMPLE)
                        .takes(Call.AS_OF)
                        .answers(Answer.of("The run.", "shown"))
                        .byAndBy(call -> RunReply.of(call, Shared.run(call))),
                Operation.get("/runs/{run}/output", "readOutput", "Reads what an attempt of a run printed, as text.")
                        .says(
                                "Of an attempt that runs, the end of what it has printed so far, a few seconds old at most.")
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
                        .sends(BECAUSE, REASON_NEEDED)
                        .answers(Answer.listOf("What was erased.", "erased"))
                        .by(RunResources::erase));
    }

    private static Reply list(Call call) {
        RunFilter filter = RunChoice.of(call, Pages.limit(call) + 1);
        filter = call.get(BELOW).map(run -> mark(call, run)).map(filter::below).orElse(filter);
        filter = Pages.cursor(call, RunResources::below).map(filter::below).orElse(filter);
        return Pages.reply(
                call, call.history().runs(filter), Views::run, run -> run.owed().planned() + " " + run.id());
    }

    private static RunFilter.Below mark(Call call, long run) {
        return call.history()
                .run(run)
                .filter(view -> call.caller().may(Role.VIEWER, view.job().namespace()))
                .map(view -> new RunFilter.Below(view.owed().planned(), run))
                .orElseThrow(() -> Problem.ofParameter(BELOW.name(), "there is no run " + run));
    }

    private static Reply spans(Call call) {
        RunFilter filter = RunFilter.newest(Pages.limit(call))
                .within(call.namespaces(call.get(Shared.NAMESPACE).map(Set::of).orElse(Set.of())));
        filter = call.get(Shared.JOB).map(filter::of).orElse(filter);
        filter = call.get(RunChoice.REASON).map(filter::withReason).orElse(filter);
        filter = call.get(Shared.FROM).map(filter::from).orElse(filter);
        filter = call.get(Shared.UNTIL).map(filter::until).orElse(filter);
        return Pages.all(call, call.history().spans(filter), Views::span);
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
                                    + " has printed nothing so far, or was never made"
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
        return RunReply.ofOrdered(call, rerun.id());
    }

    private static Reply erase(Call call) {
        call.body();
        call.check();
        RunView run = Shared.run(call);
        return Reply.json(
                call.orders().erase(run.id()).stream().map(Views::erased).toList());
    }
}
