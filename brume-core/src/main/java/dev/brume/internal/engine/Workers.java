package dev.brume.internal.engine;

import dev.brume.StopReason;
import dev.brume.Vitals;
import dev.brume.Work;
import dev.brume.internal.event.EngineThreads;
import dev.brume.internal.work.ActiveAttempt;
import dev.brume.internal.work.AttemptRunner;
import dev.brume.spi.Completion;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.WorkerPool;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentMap;
import java.util.concurrent.Executor;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.ScheduledFuture;
import java.util.concurrent.ScheduledThreadPoolExecutor;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.Consumer;

/**
 * The threads that carry out attempts, so many for each lane.
 *
 * <p>Every attempt that was started is completed exactly once, whatever the work throws. Safe for use
 * by many threads.
 */
final class Workers implements WorkerPool {
    /** How long a handler that was told to stop may take to do so before it is interrupted. */
    static final Duration GRACE = Duration.ofSeconds(10);

    private static final Duration AFTER_FAILURE = Duration.ofSeconds(1);

    private final Map<String, Lane> lanes = new ConcurrentHashMap<>();
    private final ConcurrentMap<Long, ActiveAttempt> active = new ConcurrentHashMap<>();
    private final List<ThreadPoolExecutor> pools = new ArrayList<>();
    private final AttemptRunner runner;
    private final Consumer<Completion> completions;
    private final Runnable whenRoom;
    private final ScheduledThreadPoolExecutor limits;

    /** Until when nothing more is taken, since a thread could not be started. */
    private volatile long restUntil = System.nanoTime();

    private static final class Lane {
        private final int size;
        private final Executor threads;
        private final AtomicInteger busy = new AtomicInteger();

        Lane(int size, Executor threads) {
            this.size = size;
            this.threads = threads;
        }
    }

    /**
     * Creates the pool.
     *
     * @param threads that carry them out
     * @param runner carries the attempts out
     * @param completions receives every end
     * @param whenRoom is told when a full lane has a free worker again
     */
    Workers(
            String instance,
            Map<String, Integer> sizes,
            WorkThreads threads,
            AttemptRunner runner,
            Consumer<Completion> completions,
            Runnable whenRoom) {
        this.runner = runner;
        this.completions = completions;
        this.whenRoom = whenRoom;
        sizes.forEach((name, size) -> {
            Executor own = threads.own().get(name);
            if (own == null) {
                ThreadPoolExecutor pool = threads.pool("brume-" + instance + "-" + name, size);
                pools.add(pool);
                lanes.put(name, new Lane(size, pool));
            } else {
                lanes.put(name, new Lane(size, own));
            }
        });
        limits = new ScheduledThreadPoolExecutor(1, EngineThreads.numbered("brume-" + instance + "-limits"));
        limits.setRemoveOnCancelPolicy(true);
    }

    @Override
    public int free(String lane) {
        Lane named = lanes.get(lane);
        return named == null || System.nanoTime() - restUntil < 0 ? 0 : Math.max(0, named.size - named.busy.get());
    }

    /** {@return the workers of each lane} */
    Map<String, Vitals.Lane> lanes() {
        Map<String, Vitals.Lane> all = new TreeMap<>();
        lanes.forEach((name, lane) -> all.put(name, new Vitals.Lane(lane.size, lane.busy.get())));
        return all;
    }

    @Override
    public void start(LeasedRun run) {
        Lane lane = Objects.requireNonNull(lanes.get(run.job().lane()), "a run of a lane that is not served");
        ActiveAttempt attempt = new ActiveAttempt(run);
        lane.busy.incrementAndGet();
        active.put(fence(run), attempt);
        Thread starter = Thread.currentThread();
        try {
            lane.threads.execute(() -> {
                if (Thread.currentThread() == starter) {
                    throw new RejectedExecutionException(
                            "the executor of lane " + run.job().lane()
                                    + " does the work on the thread that hands it over, which the instance needs; give one"
                                    + " that has threads of its own");
                }
                attempt(attempt, lane);
            });
        } catch (RuntimeException | Error e) {
            active.remove(fence(run));
            lane.busy.decrementAndGet();
            restUntil = System.nanoTime() + AFTER_FAILURE.toNanos();
            throw e;
        }
    }

    /** {@return how many attempts have not come to their end, those included whose lease is lost} */
    int going() {
        return active.size();
    }

    @Override
    public void stop(LeasedRun run, StopReason why) {
        ActiveAttempt attempt = active.get(fence(run));
        if (attempt == null) {
            return;
        }
        attempt.tell(why);
        boolean mayFinish = why == StopReason.DRAINING
                || (why == StopReason.CANCELLED || why == StopReason.SUPERSEDED)
                        && run.job().work() instanceof Work.Registered;
        if (!mayFinish) {
            attempt.cut(why);
        } else if (why != StopReason.DRAINING) {
            limits.schedule(() -> attempt.cut(why), GRACE.toMillis(), TimeUnit.MILLISECONDS);
        }
    }

    /** Ends all attempts that still go on. */
    void cutAll(StopReason why) {
        active.values().forEach(attempt -> attempt.cut(why));
    }

    void close() {
        limits.shutdownNow();
        pools.forEach(ThreadPoolExecutor::shutdown);
    }

    private void attempt(ActiveAttempt attempt, Lane lane) {
        LeasedRun run = attempt.run();
        attempt.begin(Thread.currentThread());
        Optional<ScheduledFuture<?>> limit = run.job()
                .longestAttempt()
                .map(most -> limits.schedule(
                        () -> attempt.cut(StopReason.TIME_LIMIT), most.toMillis(), TimeUnit.MILLISECONDS));
        Completion completion;
        try {
            completion = runner.carryOut(attempt);
        } finally {
            limit.ifPresent(timer -> timer.cancel(/* mayInterruptIfRunning= */ false));
            attempt.close();
            active.remove(fence(run));
            boolean wasFull = lane.busy.getAndDecrement() == lane.size;
            if (wasFull) {
                whenRoom.run();
            }
        }
        completions.accept(completion);
    }

    /** A fence names one lease, of this instance or any other. */
    private static long fence(LeasedRun run) {
        return run.row().lease().orElseThrow().fence();
    }
}
