package dev.brume.engine;

import dev.brume.Handler;
import dev.brume.StopReason;
import dev.brume.duties.Duty;
import dev.brume.duties.FinishDuty;
import dev.brume.duties.Instance;
import dev.brume.duties.KeepDuty;
import dev.brume.duties.ProgressDuty;
import dev.brume.duties.RoundDuty;
import dev.brume.duties.RunContext;
import dev.brume.duties.SettleDuty;
import dev.brume.duties.SweepDuty;
import dev.brume.port.Completion;
import dev.brume.port.LeasedRun;
import dev.brume.port.WorkerPool;
import java.time.Duration;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;

/**
 * One instance that does nothing by itself: its duties, and its work, are carried out when it is told to, on the thread that
 * tells it. For tests, with clocks that only move when they are told to, too.
 *
 * <p>Work takes as long as the clock is moved while it is carried out; an attempt that took longer than its job allows has
 * timed out. Confined to one thread.
 */
public final class SteppedEngine implements AutoCloseable {
    private final Instance instance;
    private final AttemptRunner runner;
    private final KeepDuty keep;
    private final RoundDuty round;
    private final FinishDuty finish;
    private final SettleDuty settle;
    private final ProgressDuty progress;
    private final SweepDuty sweep;
    private final Deque<LeasedRun> waiting = new ArrayDeque<>();
    private Optional<ActiveAttempt> active = Optional.empty();
    private long keepAt;

    /** Creates the engine of an instance; its session is opened by the first step. */
    public SteppedEngine(Instance instance, Map<String, Handler> handlers, StartChecks checks) {
        this.instance = instance;
        instance.workers(new Inline());
        runner = new AttemptRunner(handlers, new RunContext(instance), checks, instance.time());
        keep = new KeepDuty(instance, UUID::randomUUID);
        round = new RoundDuty(instance);
        settle = new SettleDuty(instance);
        finish = new FinishDuty(instance, () -> {});
        progress = new ProgressDuty(instance);
        sweep = new SweepDuty(instance);
        instance.whenReady(round::called);
        keepAt = instance.time().nanos();
    }

    /**
     * Does all that is to be done at this moment, work included.
     *
     * @return how long nothing more is to be done, as far as the instance knows; above zero
     */
    public Duration step() {
        round.called();
        while (true) {
            if (instance.time().nanos() - keepAt >= 0) {
                keepAt = instance.time().nanos() + keep.step().toNanos();
            }
            keep.describe();
            Duration rest = round.step();
            boolean worked = work();
            drain(finish);
            drain(settle);
            sweep.step();
            if (!worked && !rest.isZero()) {
                Duration untilKeep = Duration.ofNanos(keepAt - instance.time().nanos());
                return rest.compareTo(untilKeep) < 0 ? rest : untilKeep;
            }
        }
    }

    private static void drain(Duty duty) {
        Duration rest = duty.step();
        while (rest.isZero()) {
            rest = duty.step();
        }
    }

    private boolean work() {
        boolean any = !waiting.isEmpty();
        while (!waiting.isEmpty()) {
            LeasedRun run = waiting.removeFirst();
            ActiveAttempt attempt = new ActiveAttempt(run);
            attempt.begin(Thread.currentThread());
            active = Optional.of(attempt);
            Completion completion = runner.carryOut(attempt);
            attempt.close();
            active = Optional.empty();
            instance.completed(completion);
        }
        return any;
    }

    /** Has all work done by a handler, whatever the jobs say, from now on. */
    public void doneBy(Handler handler) {
        runner.doneBy(handler);
    }

    /** Writes how far the run is that is being carried out, which then can be looked at. */
    public void writeProgress() {
        progress.step();
    }

    /** Ends the session. */
    @Override
    public void close() {
        instance.drain();
        keep.close();
    }

    /** Takes work and leaves it until its turn. */
    private final class Inline implements WorkerPool {
        @Override
        public int free(String lane) {
            long taken = waiting.stream()
                    .filter(run -> run.job().lane().equals(lane))
                    .count();
            return instance.settings().lanes().getOrDefault(lane, 0) - (int) taken;
        }

        @Override
        public void start(LeasedRun run) {
            waiting.addLast(run);
        }

        @Override
        public void stop(LeasedRun run, StopReason why) {
            active.filter(attempt -> attempt.run().id() == run.id()).ifPresent(attempt -> attempt.tell(why));
        }
    }
}
