package dev.brume.engine;

import dev.brume.Handler;
import dev.brume.duties.Duty;
import dev.brume.duties.FinishDuty;
import dev.brume.duties.Instance;
import dev.brume.duties.KeepDuty;
import dev.brume.duties.ProgressDuty;
import dev.brume.duties.RoundDuty;
import dev.brume.duties.RunContext;
import dev.brume.duties.SettleDuty;
import dev.brume.duties.SweepDuty;
import dev.brume.port.StoreException;
import java.time.Duration;
import java.util.Comparator;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.stream.Stream;

/**
 * One instance that does nothing by itself: its duties, and its work, are carried out when it is told to. For tests, with
 * clocks that only move when they are told to, too.
 *
 * <p>Work has a thread of its own, which goes on while the one that steps waits for it, and takes as long as it says by {@link #elapse}. Confined to one
 * thread.
 */
public final class SteppedEngine implements AutoCloseable {
    private static final Duration AFTER_TROUBLE = Duration.ofSeconds(1);

    private final Instance instance;
    private final AttemptRunner runner;
    private final KeepDuty keep;
    private final RoundDuty round;
    private final FinishDuty finish;
    private final SettleDuty settle;
    private final ProgressDuty progress;
    private final SweepDuty sweep;
    private final SteppedWorkers workers;
    private long keepAt;

    /** Creates the engine of an instance; its session is opened by the first step. */
    public SteppedEngine(Instance instance, Map<String, Handler> handlers, StartChecks checks) {
        this.instance = instance;
        runner = new AttemptRunner(handlers, new RunContext(instance), checks, instance.time());
        workers = new SteppedWorkers(instance.settings().lanes(), runner, instance.time(), instance::completed);
        instance.workers(workers);
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
        if (SteppedWorkers.isWork()) {
            throw new IllegalStateException(
                    "work is carried out within a step and cannot take one itself (let time pass by elapse)");
        }
        round.called();
        while (true) {
            if (instance.time().nanos() - keepAt >= 0) {
                keepAt = instance.time().nanos() + step(keep).toNanos();
            }
            describe();
            // What has ended gives its place back before anyone is told that it is taken.
            drain(finish);
            drain(settle);
            Duration rest = step(round);
            boolean worked = workers.work();
            drain(finish);
            drain(settle);
            step(sweep);
            if (!worked && !rest.isZero()) {
                Duration untilKeep = Duration.ofNanos(keepAt - instance.time().nanos());
                return Stream.of(Optional.of(rest), Optional.of(untilKeep), workers.untilNext())
                        .flatMap(Optional::stream)
                        .min(Comparator.naturalOrder())
                        .orElseThrow();
            }
        }
    }

    /** What could not be said is said at the next step. */
    private void describe() {
        try {
            keep.describe();
        } catch (StoreException e) {
            round.called();
        }
    }

    /** What a duty meets that cannot reach the store is no end of it, as on a thread of its own. */
    private static Duration step(Duty duty) {
        try {
            return duty.step();
        } catch (StoreException e) {
            return AFTER_TROUBLE;
        }
    }

    private static void drain(Duty duty) {
        Duration rest = step(duty);
        while (rest.isZero()) {
            rest = step(duty);
        }
    }

    /**
     * Lets the work that calls it last: others go on meanwhile, time passes by further steps. Returns when so much time has passed, or with the
     * thread interrupted when the run is told to end while it lasts.
     *
     * @return false if it is no work that calls, so that nothing was done
     */
    public boolean elapse(Duration by) {
        return SteppedWorkers.elapse(by);
    }

    /** {@return whether an attempt of a run goes on} */
    public boolean isGoing(long run) {
        return workers.isGoing(run);
    }

    /** Sets for how long of real time a handler may go on before the step that waits for it fails. */
    public void patience(Duration most) {
        workers.patience(most);
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
        workers.close();
        instance.drain();
        keep.close();
    }
}
