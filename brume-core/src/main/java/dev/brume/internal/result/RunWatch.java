package dev.brume.internal.result;

import dev.brume.NotThereException;
import dev.brume.RunResult;
import dev.brume.StoreException;
import dev.brume.history.Standing;
import dev.brume.spi.Store;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionStage;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.concurrent.locks.LockSupport;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Watches for the ends of runs that this process waits for: one look-up a beat for all of them, by a thread that is there only as long as
 * somebody waits. Safe for use by many threads.
 */
public final class RunWatch {
    private static final Logger LOG = LoggerFactory.getLogger(RunWatch.class);
    private static final Duration BEAT = Duration.ofMillis(200);

    /** As long as somebody has only just begun to wait: what is quick is soon over. */
    private static final Duration FIRST_BEAT = Duration.ofMillis(50);

    private static final Duration AT_FIRST = Duration.ofSeconds(1);

    /** How long others are asked to call, and how long before that ends they are asked again. */
    private static final Duration ASKED = Duration.ofSeconds(15);

    private static final Duration ASKED_AGAIN = Duration.ofSeconds(5);

    private static final Duration AFTER_TROUBLE = Duration.ofSeconds(1);
    private static final int AT_ONCE = 5_000;

    /** A run passes from one table to another, and a look may fall between. */
    private static final int MISSED_AT_MOST = 2;

    private final String name;
    private final Store store;
    private final Map<Long, Awaited> awaited = new TreeMap<>();
    private @Nullable Thread thread;
    private boolean stopped;
    private long lastJoin = System.nanoTime();
    private volatile boolean woken;
    private volatile boolean listens;
    private long asked = System.nanoTime() - ASKED.toNanos();

    /** A run, and who waits for it. Guarded by the watch. */
    private static final class Awaited {
        final CompletableFuture<RunResult> end = new CompletableFuture<>();
        int waiters;
        boolean seen;
        int missed;
    }

    /**
     * Creates a watch.
     *
     * @param name of its thread
     */
    public RunWatch(String name, Store store) {
        this.name = name;
        this.store = store;
    }

    /** {@return how a run ended, by a look now} */
    public Optional<RunResult> look(long run) {
        return Optional.ofNullable(
                store.history().standing(List.of(run)).ended().get(run));
    }

    /** {@return a stage that completes with the end of a run} */
    public CompletionStage<RunResult> ended(long run) {
        return join(run).end.minimalCompletionStage();
    }

    /** {@return a stage that completes with the end of a run, or with nothing after a while, from when on nobody waits for it} */
    public CompletionStage<Optional<RunResult>> ended(long run, Duration limit) {
        Awaited joined = join(run);
        return joined.end
                .thenApply(Optional::of)
                .completeOnTimeout(Optional.empty(), Math.max(0, limit.toMillis()), TimeUnit.MILLISECONDS)
                .whenComplete((end, failed) -> leave(run, joined))
                .minimalCompletionStage();
    }

    /** Waits for the end of a run. */
    public RunResult await(long run, Duration limit) throws InterruptedException, TimeoutException {
        Awaited joined = join(run);
        try {
            return joined.end.get(Math.max(0, limit.toMillis()), TimeUnit.MILLISECONDS);
        } catch (TimeoutException e) {
            TimeoutException late = new TimeoutException("run " + run + " has not ended after " + limit);
            late.initCause(e);
            throw late;
        } catch (ExecutionException e) {
            Throwable cause = e.getCause();
            if (cause instanceof RuntimeException known) {
                throw known;
            }
            throw new IllegalStateException("waiting for run " + run + " failed", cause);
        } finally {
            leave(run, joined);
        }
    }

    /** Looks at once if one of some runs is waited for: it has ended here. */
    public void mayHaveEnded(Collection<Long> runs) {
        synchronized (this) {
            if (thread == null || runs.stream().noneMatch(awaited::containsKey)) {
                return;
            }
        }
        wake();
    }

    /** Sets whether this instance hears calls: then others are asked to call, if somebody waits for longer than a moment. */
    public void listens(boolean hears) {
        listens = hears;
    }

    /** Looks at once if anything is waited for: runs have ended elsewhere. */
    public void called() {
        wake();
    }

    /** Ends all waiting, after a last look: the instance is stopped. */
    public void stop() {
        try {
            look();
        } catch (StoreException e) {
            LOG.debug("{}: no last look for ends", name, e);
        }
        List<Awaited> left;
        synchronized (this) {
            stopped = true;
            left = List.copyOf(awaited.values());
            awaited.clear();
        }
        wake();
        left.forEach(each -> each.end.completeExceptionally(isStopped()));
    }

    private IllegalStateException isStopped() {
        return new IllegalStateException(name + " was stopped before the run ended; the run goes on elsewhere");
    }

    private synchronized Awaited join(long run) {
        if (stopped) {
            Awaited none = new Awaited();
            none.end.completeExceptionally(isStopped());
            return none;
        }
        Awaited joined = awaited.computeIfAbsent(run, any -> new Awaited());
        joined.waiters++;
        lastJoin = System.nanoTime();
        if (thread == null) {
            thread = new Thread(this::loop, name);
            thread.setDaemon(true);
            thread.start();
        } else if (joined.waiters == 1) {
            wake();
        }
        return joined;
    }

    /** Whoever joined after the end was found waits for another look, and is nobody else's to take away. */
    private synchronized void leave(long run, Awaited joined) {
        if (awaited.get(run) == joined && --joined.waiters == 0) {
            awaited.remove(run);
        }
    }

    private void wake() {
        woken = true;
        Thread waiting = thread();
        if (waiting != null) {
            LockSupport.unpark(waiting);
        }
    }

    private synchronized @Nullable Thread thread() {
        return thread;
    }

    private void loop() {
        while (!isOver()) {
            woken = false;
            Duration rest = beat();
            long began = System.nanoTime();
            try {
                look();
                ask(rest);
            } catch (StoreException e) {
                LOG.debug("{}: ends could not be looked for, will try again", name, e);
                rest = AFTER_TROUBLE;
            } catch (RuntimeException | Error e) {
                LOG.error("{} failed in an unforeseen way; goes on", name, e);
                rest = AFTER_TROUBLE;
            }
            // Where many end one after the other, their calls do not make it look all the time.
            sleep(Duration.ofNanos(System.nanoTime() - began), /* wholly= */ true);
            sleep(rest, /* wholly= */ false);
        }
    }

    /** Has others call when runs end, once somebody has waited for longer than a moment. */
    private void ask(Duration beat) {
        if (listens
                && beat.equals(BEAT)
                && store.callsAtEnds()
                && System.nanoTime() - asked >= ASKED.minus(ASKED_AGAIN).toNanos()) {
            store.awaitEnds(ASKED);
            asked = System.nanoTime();
        }
    }

    private synchronized Duration beat() {
        return System.nanoTime() - lastJoin < AT_FIRST.toNanos() ? FIRST_BEAT : BEAT;
    }

    /** The thread goes when nobody waits; whoever comes next starts another. */
    private synchronized boolean isOver() {
        if (awaited.isEmpty() || stopped) {
            thread = null;
            return true;
        }
        return false;
    }

    private void look() {
        List<Long> runs;
        synchronized (this) {
            runs = new ArrayList<>(awaited.keySet());
        }
        for (int from = 0; from < runs.size(); from += AT_ONCE) {
            List<Long> some = runs.subList(from, Math.min(runs.size(), from + AT_ONCE));
            found(some, store.history().standing(some));
        }
    }

    private void found(List<Long> runs, Standing standing) {
        List<Runnable> ends = new ArrayList<>();
        synchronized (this) {
            for (long run : runs) {
                Awaited each = awaited.get(run);
                RunResult result = standing.ended().get(run);
                if (each == null) {
                    continue;
                }
                if (result != null) {
                    awaited.remove(run);
                    ends.add(() -> each.end.completeAsync(() -> result));
                } else if (standing.live().contains(run)) {
                    each.seen = true;
                    each.missed = 0;
                } else if (each.seen && ++each.missed == MISSED_AT_MOST) {
                    awaited.remove(run);
                    ends.add(() -> each.end.completeExceptionally(
                            NotThereException.ofRun(run, " any more: it went without an end")));
                }
            }
        }
        ends.forEach(Runnable::run);
    }

    private void sleep(Duration rest, boolean wholly) {
        long until = System.nanoTime() + rest.toNanos();
        for (long left = rest.toNanos(); left > 0 && (wholly || !woken); left = until - System.nanoTime()) {
            LockSupport.parkNanos(this, left);
        }
    }
}
