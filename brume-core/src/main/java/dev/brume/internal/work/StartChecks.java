package dev.brume.internal.work;

import dev.brume.Job;
import dev.brume.JobScope;
import dev.brume.ListenerStatus;
import dev.brume.Run;
import dev.brume.StartCheck;
import dev.brume.internal.event.EngineThreads;
import dev.brume.internal.event.Listeners;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Future;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.SynchronousQueue;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.concurrent.atomic.AtomicLong;

/** Asks the application's checks before an attempt starts, each for a bounded time. Safe for use by many threads. */
public final class StartChecks {
    private static final int MOST_AT_ONCE = 64;

    private final List<Check> checks = new CopyOnWriteArrayList<>();
    private volatile Listeners.Trouble trouble = (what, why) -> {};
    private final ExecutorService threads = new ThreadPoolExecutor(
            0, MOST_AT_ONCE, 10, TimeUnit.SECONDS, new SynchronousQueue<>(), EngineThreads.numbered("brume-check"));

    private static final class Check {
        private final String name;
        private final JobScope scope;
        private final StartCheck check;
        private final AtomicLong asked = new AtomicLong();
        private final AtomicLong failed = new AtomicLong();
        private final AtomicLong unanswered = new AtomicLong();

        Check(String name, JobScope scope, StartCheck check) {
            this.name = name;
            this.scope = scope;
            this.check = check;
        }
    }

    /** Sets who hears of trouble. */
    public void reportTo(Listeners.Trouble who) {
        trouble = who;
    }

    /** Adds a check of the runs of some jobs. */
    public void add(String name, JobScope scope, StartCheck check) {
        checks.add(new Check(name, scope, check));
    }

    /** {@return how they fare} */
    public List<ListenerStatus> status() {
        return checks.stream()
                .map(check -> new ListenerStatus(
                        check.name, check.asked.get(), check.failed.get(), check.unanswered.get(), 0))
                .toList();
    }

    /** {@return why a run must not start, in the words of the first check that says so; empty if it may} */
    Optional<String> ask(Run run, Job job) throws InterruptedException {
        for (Check check : checks) {
            if (check.scope.holds(job.name(), Set.copyOf(job.tags()))) {
                Optional<String> reason = ask(check, run);
                if (reason.isPresent()) {
                    return Optional.of(check.name + ": " + reason.get());
                }
            }
        }
        return Optional.empty();
    }

    private Optional<String> ask(Check check, Run run) throws InterruptedException {
        check.asked.incrementAndGet();
        Future<Optional<String>> answer;
        try {
            answer = threads.submit(() -> check.check.turnDown(run));
        } catch (RejectedExecutionException e) {
            return unanswered(check, e);
        }
        try {
            return answer.get(StartCheck.SECONDS, TimeUnit.SECONDS);
        } catch (TimeoutException e) {
            answer.cancel(/* mayInterruptIfRunning= */ true);
            return unanswered(check, e);
        } catch (ExecutionException e) {
            check.failed.incrementAndGet();
            trouble.report(
                    "check '" + check.name + "' threw; it turns nothing down",
                    Objects.requireNonNullElse(e.getCause(), e));
            return Optional.empty();
        }
    }

    private Optional<String> unanswered(Check check, Exception why) {
        check.unanswered.incrementAndGet();
        trouble.report(
                "check '" + check.name + "' did not answer within " + StartCheck.SECONDS + "s; it turns nothing down",
                why);
        return Optional.empty();
    }

    /** Ends the threads. */
    public synchronized void close() {
        if (threads != null) {
            threads.shutdownNow();
        }
    }
}
