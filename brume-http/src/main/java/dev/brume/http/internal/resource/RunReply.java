package dev.brume.http.internal.resource;

import dev.brume.RunHandle;
import dev.brume.definitions.InsightViews;
import dev.brume.definitions.Views;
import dev.brume.history.RunView;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Reply;
import java.time.Duration;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionStage;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.Function;

/** Answers with a run: at once, or when it has ended, if that is preferred. */
final class RunReply {
    /** The longest that anybody may prefer to wait. */
    static final int LONGEST_WAIT = 60;

    private static final AtomicInteger WAITING = new AtomicInteger();

    private RunReply() {}

    /** Answers with a run that was read just now. */
    static CompletionStage<Reply> of(Call call, RunView run) {
        Function<RunView, Reply> shown = read -> Reply.json(InsightViews.shown(
                read,
                InsightViews.whySkipped(call.history(), read),
                call.history().erasure(read.id())));
        return ended(call, run.id(), shown).orElseGet(() -> CompletableFuture.completedFuture(shown.apply(run)));
    }

    /** Answers with a run that was ordered just now. */
    static CompletionStage<Reply> ofOrdered(Call call, long run) {
        Function<RunView, Reply> shown = read -> Reply.json(201, Views.run(read))
                .with("Location", call.incoming().base() + "/api/v1/runs/" + run);
        return ended(call, run, shown).orElseGet(() -> CompletableFuture.completedFuture(shown.apply(read(call, run))));
    }

    /** What is answered when the run has ended; empty if nobody waits for that. */
    private static Optional<CompletionStage<Reply>> ended(Call call, long run, Function<RunView, Reply> shown) {
        Optional<Integer> wait = call.incoming().wait(LONGEST_WAIT);
        if (wait.isEmpty() || wait.get() == 0 || call.asOf().isPresent()) {
            return Optional.empty();
        }
        // Asked for before a place is taken: a store that is away takes none.
        RunHandle handle = call.brume().orders(call.caller().name(), "").run(run);
        if (WAITING.incrementAndGet() > call.limits().waiting()) {
            WAITING.decrementAndGet();
            throw new Problem(
                            Problem.Kind.NOT_NOW,
                            call.limits().waiting() + " requests wait for the ends of runs, and no more do at once")
                    .with("Retry-After", "5");
        }
        return Optional.of(handle.ended(Duration.ofSeconds(wait.get()))
                .whenComplete((ended, failed) -> WAITING.decrementAndGet())
                .thenApplyAsync(
                        ended -> shown.apply(read(call, run)).with("Preference-Applied", "wait=" + wait.get())));
    }

    private static RunView read(Call call, long run) {
        return call.history()
                .run(run)
                .orElseThrow(() -> new Problem(Problem.Kind.NOT_THERE, "run " + run + " is not on record any more"));
    }
}
