package dev.brume.engine;

import dev.brume.AttemptEnd;
import dev.brume.Failure;
import dev.brume.Handler;
import dev.brume.Job;
import dev.brume.Placeholders;
import dev.brume.StopReason;
import dev.brume.Work;
import dev.brume.duties.RunContext;
import dev.brume.port.Completion;
import dev.brume.port.LeasedRun;
import dev.brume.port.TimeSource;
import dev.brume.port.WorkerPool;
import java.time.Duration;
import java.util.HashMap;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentMap;
import java.util.concurrent.Executors;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.ScheduledFuture;
import java.util.concurrent.ThreadFactory;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.Consumer;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.slf4j.MDC;

/**
 * The threads that carry out attempts, so many for each lane.
 *
 * <p>Every attempt that was started is completed exactly once, whatever the work throws. Safe for use
 * by many threads.
 */
final class Workers implements WorkerPool {
    private static final Logger LOG = LoggerFactory.getLogger(Workers.class);
    /** How long a handler that was told to stop may take to do so before it is interrupted. */
    static final Duration GRACE = Duration.ofSeconds(10);

    private static final Duration LONGEST_REQUEST = Duration.ofSeconds(60);
    private static final int LONGEST_ERROR = 4000;
    static final int LONGEST_RESULT = 64 * 1024;

    private final Map<String, Lane> lanes = new ConcurrentHashMap<>();
    private final ConcurrentMap<Long, ActiveAttempt> active = new ConcurrentHashMap<>();
    private final Map<String, Handler> handlers;
    private final RunContext context;
    private final StartChecks checks;
    private final TimeSource time;
    private final Consumer<Completion> completions;
    private final Runnable whenRoom;
    private final ScheduledExecutorService limits;

    private static final class Lane {
        private final int size;
        private final ThreadPoolExecutor threads;
        private final AtomicInteger busy = new AtomicInteger();

        Lane(int size, ThreadFactory factory) {
            this.size = size;
            threads = new ThreadPoolExecutor(size, size, 30, TimeUnit.SECONDS, new LinkedBlockingQueue<>(), factory);
            threads.allowCoreThreadTimeOut(true);
        }
    }

    /**
     * Creates the pool.
     *
     * @param completions receives every end
     * @param whenRoom is told when a full lane has a free worker again
     */
    Workers(
            String instance,
            Map<String, Integer> sizes,
            Map<String, Handler> handlers,
            RunContext context,
            StartChecks checks,
            TimeSource time,
            Consumer<Completion> completions,
            Runnable whenRoom) {
        this.handlers = handlers;
        this.context = context;
        this.checks = checks;
        this.time = time;
        this.completions = completions;
        this.whenRoom = whenRoom;
        sizes.forEach((name, size) ->
                lanes.put(name, new Lane(size, EngineThreads.numbered("brume-" + instance + "-" + name))));
        limits = Executors.newSingleThreadScheduledExecutor(EngineThreads.numbered("brume-" + instance + "-limits"));
    }

    @Override
    public int free(String lane) {
        Lane named = lanes.get(lane);
        return named == null ? 0 : Math.max(0, named.size - named.busy.get());
    }

    @Override
    public void start(LeasedRun run) {
        Lane lane = lanes.get(run.job().lane());
        lane.busy.incrementAndGet();
        lane.threads.execute(() -> attempt(run, lane));
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
        lanes.values().forEach(lane -> lane.threads.shutdown());
    }

    private void attempt(LeasedRun run, Lane lane) {
        ActiveAttempt attempt = new ActiveAttempt(run, Thread.currentThread());
        active.put(fence(run), attempt);
        long started = time.nanos();
        Optional<ScheduledFuture<?>> limit = timeLimit(run.job())
                .map(most -> limits.schedule(
                        () -> attempt.cut(StopReason.TIME_LIMIT), most.toMillis(), TimeUnit.MILLISECONDS));
        OutputBuffer output = new OutputBuffer();
        Ending ending;
        MDC.put("brumeRun", Long.toString(run.id()));
        MDC.put("brumeJob", run.job().key().toString());
        try {
            ending = work(attempt, output, started);
        } finally {
            MDC.remove("brumeRun");
            MDC.remove("brumeJob");
            limit.ifPresent(timer -> timer.cancel(/* mayInterruptIfRunning= */ false));
            attempt.close();
            active.remove(fence(run));
            boolean wasFull = lane.busy.getAndDecrement() == lane.size;
            if (wasFull) {
                whenRoom.run();
            }
        }
        completions.accept(new Completion(
                run,
                ending.end,
                ending.error,
                ending.result,
                output.output(),
                started,
                time.nanos(),
                ending.failure,
                ending.recorded));
    }

    private static Optional<Duration> timeLimit(Job job) {
        return job.work() instanceof Work.Request
                ? job.timeLimit().or(() -> Optional.of(LONGEST_REQUEST))
                : job.timeLimit();
    }

    /** A fence names one lease, of this instance or any other. */
    private static long fence(LeasedRun run) {
        return run.row().lease().orElseThrow().fence();
    }

    private record Ending(
            AttemptEnd end, Optional<String> error, Optional<String> result, Failure failure, boolean recorded) {
        static Ending turnedDown(String why) {
            return new Ending(
                    AttemptEnd.TURNED_DOWN,
                    Optional.of(clip(why, LONGEST_ERROR)),
                    Optional.empty(),
                    Failure.UNKNOWN,
                    /* recorded= */ false);
        }

        static Ending well(Optional<String> result, boolean recorded) {
            return new Ending(
                    AttemptEnd.SUCCEEDED, Optional.empty(), result.map(Workers::resultText), Failure.UNKNOWN, recorded);
        }
    }

    private Ending work(ActiveAttempt attempt, OutputBuffer output, long started) {
        HandlerRun run = new HandlerRun(attempt, output, context, time, started);
        try {
            Optional<String> no = checks.ask(run, attempt.run().job());
            if (no.isPresent()) {
                return Ending.turnedDown(no.get());
            }
            Work work = attempt.run().job().work();
            if (work instanceof Work.Program program) {
                new ProgramRunner(attempt, output, parentFacts(run)).run(program);
            } else if (work instanceof Work.Request request) {
                new RequestRunner(attempt, output, time, run::result, parentFacts(run)).run(request);
            } else {
                handler(attempt.run()).run(run);
            }
            return Ending.well(run.result(), run.committed());
        } catch (WorkFailed e) {
            return failed(attempt, attempt.wasCut(), e.getMessage(), e.failure(), run);
        } catch (Throwable e) {
            if (e instanceof VirtualMachineError) {
                LOG.error("run {} of {} met an error of the virtual machine", run.id(), run.job(), e);
            } else {
                LOG.debug("run {} of {} threw", run.id(), run.job(), e);
            }
            return failed(attempt, attempt.stopAsked().isPresent(), StackText.of(e), Failure.thrown(e), run);
        }
    }

    /** What the run it follows came to, by the names of the places that requests are filled at. */
    private static Map<String, String> parentFacts(HandlerRun run) {
        Map<String, String> facts = new HashMap<>();
        Placeholders.PARENT.forEach(name -> facts.put(name, ""));
        run.parent().ifPresent(parent -> {
            facts.put("parent", Long.toString(parent.run()));
            facts.put("parentJob", parent.job().toString());
            facts.put("parentOutcome", parent.outcome().name());
            facts.put("parentResult", parent.result().orElse(""));
        });
        return facts;
    }

    private Handler handler(LeasedRun run) {
        String name = run.job().work().neededHandler().orElseThrow();
        Handler handler = handlers.get(name);
        if (handler == null) {
            throw new IllegalStateException("this instance no longer has a handler '" + name + "'");
        }
        return handler;
    }

    private static Ending failed(
            ActiveAttempt attempt, boolean stopped, String error, Failure failure, HandlerRun run) {
        if (run.committed()) {
            LOG.warn(
                    "run {} of {} threw after it had been committed; it counts as succeeded: {}",
                    run.id(),
                    run.job(),
                    error);
            return Ending.well(run.result(), /* recorded= */ true);
        }
        AttemptEnd end = AttemptEnd.FAILED;
        String why = error;
        if (stopped) {
            StopReason reason = attempt.stopAsked().orElseThrow();
            end = switch (reason) {
                case TIME_LIMIT -> AttemptEnd.TIMED_OUT;
                case DRAINING -> AttemptEnd.HANDED_BACK;
                case CANCELLED -> AttemptEnd.CANCELLED;
                case SUPERSEDED -> AttemptEnd.SUPERSEDED;
                case LEASE_LOST -> AttemptEnd.LOST;
            };
            why = switch (reason) {
                case TIME_LIMIT -> "stopped at its time limit: " + error;
                case DRAINING -> "stopped because the instance was stopping";
                case CANCELLED, SUPERSEDED -> "";
                case LEASE_LOST -> "stopped because the instance could not renew its lease";
            };
        }
        return new Ending(
                end,
                Optional.of(clip(why, LONGEST_ERROR)).filter(text -> !text.isEmpty()),
                run.result().map(Workers::resultText),
                failure,
                /* recorded= */ false);
    }

    static String resultText(String text) {
        return clip(text, LONGEST_RESULT);
    }

    private static String clip(String text, int longest) {
        String clean = text.replace('\0', '\uFFFD');
        return clean.length() <= longest
                ? clean
                : clean.substring(0, longest) + "[... " + (clean.length() - longest) + " characters left out]";
    }
}
