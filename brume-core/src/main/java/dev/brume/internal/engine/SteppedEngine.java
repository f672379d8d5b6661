package dev.brume.internal.engine;

import dev.brume.Handler;
import dev.brume.StoreException;
import dev.brume.internal.duty.Duty;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.retention.SweepDuty;
import dev.brume.internal.round.RoundDuty;
import dev.brume.internal.run.FinishDuty;
import dev.brume.internal.run.ProgressDuty;
import dev.brume.internal.run.RunContext;
import dev.brume.internal.run.SettleDuty;
import dev.brume.internal.session.RenewDuty;
import dev.brume.internal.telling.TellDuty;
import dev.brume.internal.work.Around;
import dev.brume.internal.work.AttemptRunner;
import dev.brume.notice.Sender;
import dev.brume.notice.Watch;
import dev.brume.spi.SteppedInstance;
import java.time.Duration;
import java.util.Comparator;
import java.util.List;
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
public final class SteppedEngine implements SteppedInstance {
    private static final Duration AFTER_TROUBLE = Duration.ofSeconds(1);

    private final Instance instance;
    private final AttemptRunner runner;
    private final RenewDuty keep;
    private final RoundDuty round;
    private final FinishDuty finish;
    private final SettleDuty settle;
    private final ProgressDuty progress;
    private final SweepDuty sweep;
    private final TellDuty tell;
    private long tellAt;
    private final SteppedWorkers workers;
    private long keepAt;

    /** Creates the engine of an instance; its session is opened by the first step. */
    public SteppedEngine(
            Instance instance,
            Map<String, Handler> handlers,
            Around around,
            List<Sender> senders,
            Optional<Watch> watch) {
        this.instance = instance;
        runner = new AttemptRunner(handlers, new RunContext(instance), around, instance.time());
        workers = new SteppedWorkers(instance.settings().lanes(), runner, instance.time(), instance::completed);
        instance.workers(workers);
        keep = new RenewDuty(instance, UUID::randomUUID);
        round = new RoundDuty(instance);
        settle = new SettleDuty(instance);
        finish = new FinishDuty(instance, () -> {});
        progress = new ProgressDuty(instance);
        sweep = new SweepDuty(instance);
        tell = new TellDuty(instance, senders, watch, Runnable::run, () -> {});
        tellAt = instance.time().nanos();
        instance.whenNotable(() -> tellAt = instance.time().nanos());
        instance.whenReady(round::called);
        keepAt = instance.time().nanos();
    }

    @Override
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
            // Ended runs give their places back before any other run is told that they are taken.
            drain(finish);
            drain(settle);
            Duration rest = step(round);
            boolean worked = workers.work();
            drain(finish);
            drain(settle);
            step(sweep);
            if (instance.time().nanos() - tellAt >= 0) {
                tellAt = instance.time().nanos() + step(tell).toNanos();
            }
            if (!worked && !rest.isZero()) {
                Duration untilKeep = Duration.ofNanos(keepAt - instance.time().nanos());
                Duration untilTell = Duration.ofNanos(tellAt - instance.time().nanos());
                return Stream.of(Optional.of(rest), Optional.of(untilKeep), Optional.of(untilTell), workers.untilNext())
                        .flatMap(Optional::stream)
                        .min(Comparator.naturalOrder())
                        .orElseThrow();
            }
        }
    }

    /** If the store cannot be reached, the next step tries again. */
    private void describe() {
        try {
            keep.describe();
        } catch (StoreException e) {
            round.called();
        }
    }

    /** A duty that cannot reach the store goes on at the next step, as it would on a thread of its own. */
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

    @Override
    public boolean elapse(Duration by) {
        return SteppedWorkers.elapse(by);
    }

    @Override
    public boolean isGoing(long run) {
        return workers.isGoing(run);
    }

    @Override
    public void patience(Duration most) {
        workers.patience(most);
    }

    @Override
    public void doneBy(Handler handler) {
        runner.doneBy(handler);
    }

    @Override
    public void writeProgress() {
        progress.step();
    }

    @Override
    public void close() {
        workers.close();
        instance.drain();
        keep.close();
    }
}
