package dev.brume.tests;

import java.util.concurrent.CompletableFuture;
import java.util.function.Supplier;

/** Things that must go on at once, each on a thread of its own: the common pool may have a single one. */
final class Threads {
    private Threads() {}

    static <T> CompletableFuture<T> supply(Supplier<T> work) {
        return CompletableFuture.supplyAsync(work, task -> new Thread(task).start());
    }

    static CompletableFuture<Void> run(Runnable work) {
        return CompletableFuture.runAsync(work, task -> new Thread(task).start());
    }
}
