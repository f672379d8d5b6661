package dev.brume.http.internal.resource;

import dev.brume.RunHandle;
import dev.brume.definitions.InsightViews;
import dev.brume.definitions.Views;
import dev.brume.history.RunView;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Reply;
import java.time.Duration;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionStage;
import java.util.concurrent.atomic.AtomicInteger;

/** Answers with a run: at once, or when it has ended, if that is preferred. */
final class RunReply {
    /** The longest that anybody may prefer to wait. */
    static final int LONGEST_WAIT = 60;

    private static final AtomicInteger WAITING = new AtomicInteger();

    private RunReply() {}

    static CompletionStage<Reply> of(Call call, long run, int status) {
        Optional<Integer> wait = call.incoming().wait(LONGEST_WAIT);
        if (wait.isEmpty() || wait.get() == 0 || call.asOf().isPresent()) {
            return CompletableFuture.completedFuture(reply(call, run, status));
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
        return handle.ended(Duration.ofSeconds(wait.get()))
                .whenComplete((ended, failed) -> WAITING.decrementAndGet())
                .thenApplyAsync(ended -> reply(call, run, status).with("Preference-Applied", "wait=" + wait.get()));
    }

    private static Reply reply(Call call, long id, int status) {
        RunView run = call.history()
                .run(id)
                .orElseThrow(() -> new Problem(Problem.Kind.NOT_THERE, "run " + id + " is not on record any more"));
        Map<String, Object> view = status == 201
                ? Views.run(run)
                : InsightViews.shown(
                        run,
                        InsightViews.whySkipped(call.history(), run),
                        call.history().erasure(id));
        Reply reply = Reply.json(status, view);
        return status == 201 ? reply.with("Location", call.incoming().base() + "/api/v1/runs/" + id) : reply;
    }
}
