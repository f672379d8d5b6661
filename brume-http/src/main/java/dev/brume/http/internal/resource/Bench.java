package dev.brume.http.internal.resource;

import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Problem.Kind;
import dev.brume.http.internal.web.Reply;
import dev.brume.schedule.Durations;
import java.time.Duration;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.concurrent.CompletionStage;
import java.util.concurrent.Executor;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.function.Supplier;

/**
 * Works things out that may take long, so many at once. What takes longer than it may is answered as such; its place is free again only when it has
 * really ended.
 */
final class Bench {
    private final Semaphore places;
    private final String what;
    private final Executor threads;

    Bench(int places, String what) {
        this.places = new Semaphore(places);
        this.what = what;
        this.threads = task -> {
            Thread thread = new Thread(task, "brume-http-bench");
            thread.setDaemon(true);
            thread.setPriority(Thread.MIN_PRIORITY);
            thread.start();
        };
    }

    CompletionStage<Reply> work(Duration limit, Supplier<Reply> work) {
        if (!places.tryAcquire()) {
            throw new Problem(Kind.NOT_NOW, "another " + what + " is being worked out; try again")
                    .with("Retry-After", "5");
        }
        // The place is free before anybody is told: whoever was answered may ask the next at once.
        Supplier<Reply> whole = () -> {
            try {
                return work.get();
            } finally {
                places.release();
            }
        };
        CompletableFuture<Reply> worked = CompletableFuture.supplyAsync(whole, threads);
        return worked.orTimeout(limit.toMillis(), TimeUnit.MILLISECONDS).exceptionally(failed -> {
            Throwable cause = failed instanceof CompletionException ? failed.getCause() : failed;
            if (cause instanceof TimeoutException) {
                throw new Problem(
                        Kind.REFUSED,
                        "this " + what + " takes longer than " + Durations.format(limit)
                                + "; ask for less at once, or let the command work it out");
            }
            throw cause instanceof RuntimeException known ? known : new IllegalStateException(cause);
        });
    }
}
