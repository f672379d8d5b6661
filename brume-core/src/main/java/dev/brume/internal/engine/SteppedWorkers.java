package dev.brume.internal.engine;

import dev.brume.StopReason;
import dev.brume.Work;
import dev.brume.internal.work.ActiveAttempt;
import dev.brume.internal.work.AttemptRunner;
import dev.brume.spi.Completion;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.TimeSource;
import dev.brume.spi.WorkerPool;
import java.time.Duration;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.Deque;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;

/**
 * The workers of an engine that is stepped. Each attempt has a thread of its own, so that work can last while time passes and other work begins, and of all these
 * threads and the one that steps only one goes on at any moment: what happens is the same each time.
 *
 * <p>Work lasts as long as it says by {@link #elapse}. Confined to the thread that steps, but for {@code elapse}, and for what work does in its turn.
 */
final class SteppedWorkers implements WorkerPool {
    private static final ThreadLocal<Performance> CURRENT = new ThreadLocal<>();

    private final Map<String, Integer> lanes;
    private final AttemptRunner runner;
    private final TimeSource time;
    private final Consumer<Completion> completions;
    private final Deque<ActiveAttempt> waiting = new ArrayDeque<>();
    private final List<Performance> going = new ArrayList<>();
    private Duration patience = Duration.ofSeconds(30);

    SteppedWorkers(
            Map<String, Integer> lanes, AttemptRunner runner, TimeSource time, Consumer<Completion> completions) {
        this.lanes = lanes;
        this.runner = runner;
        this.time = time;
        this.completions = completions;
    }

    /** Sets for how long of real time a handler may go on in one turn. */
    void patience(Duration most) {
        patience = most;
    }

    @Override
    public int free(String lane) {
        long taken = waiting.stream()
                        .filter(attempt -> attempt.run().job().lane().equals(lane))
                        .count()
                + going.stream()
                        .filter(performance ->
                                performance.attempt().run().job().lane().equals(lane))
                        .count();
        return lanes.getOrDefault(lane, 0) - (int) taken;
    }

    @Override
    public void start(LeasedRun run) {
        waiting.addLast(new ActiveAttempt(run));
    }

    @Override
    public void stop(LeasedRun run, StopReason why) {
        waiting.stream().filter(attempt -> attempt.run().id() == run.id()).forEach(attempt -> attempt.tell(why));
        going.stream()
                .filter(performance -> performance.attempt().run().id() == run.id())
                .forEach(performance -> {
                    performance.attempt().tell(why);
                    boolean mayFinish = run.job().work() instanceof Work.Registered;
                    if (why != StopReason.DRAINING) {
                        performance.cutAt(time.nanos() + (mayFinish ? Workers.GRACE.toNanos() : 0), why);
                    }
                });
    }

    /** {@return whether an attempt of a run goes on} */
    boolean isGoing(long run) {
        return going.stream()
                .anyMatch(performance -> performance.attempt().run().id() == run);
    }

    /** Lets all work go on that begins now or whose time has come; returns whether any did. */
    boolean work() {
        boolean any = false;
        while (true) {
            Optional<Performance> next = next();
            if (next.isEmpty()) {
                return any;
            }
            any = true;
            next.get().turn(patience);
            next.get().completion().ifPresent(completion -> {
                going.remove(next.get());
                completions.accept(completion);
            });
        }
    }

    private Optional<Performance> next() {
        if (!waiting.isEmpty()) {
            Performance begun = new Performance(waiting.removeFirst(), runner, time);
            going.add(begun);
            return Optional.of(begun);
        }
        long now = time.nanos();
        return going.stream()
                .filter(performance -> performance.wakesAt() - now <= 0)
                .min(Comparator.comparingLong(performance -> performance.wakesAt() - now));
    }

    /** {@return in how long the next work goes on that lasts; empty if none does} */
    Optional<Duration> untilNext() {
        long now = time.nanos();
        return going.stream()
                .map(performance -> Duration.ofNanos(Math.max(0, performance.wakesAt() - now)))
                .min(Comparator.naturalOrder());
    }

    /** Lets the work that calls it last; false if it is no work that calls. */
    static boolean elapse(Duration by) {
        Performance current = CURRENT.get();
        if (current == null) {
            return false;
        }
        current.last(by);
        return true;
    }

    /** {@return whether it is work that calls} */
    static boolean isWork() {
        return CURRENT.get() != null;
    }

    static void isNow(Performance performance) {
        CURRENT.set(performance);
    }

    /** Gives up all work that has not ended. */
    void close() {
        List.copyOf(going).forEach(performance -> performance.giveUp(patience));
        going.clear();
        waiting.clear();
    }
}
