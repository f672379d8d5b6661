package dev.brume.simulator;

import dev.brume.AttemptEnd;
import dev.brume.Event;
import dev.brume.StopReason;
import dev.brume.StoreException;
import dev.brume.Work;
import dev.brume.insight.internal.VirtualTime;
import dev.brume.internal.duty.Duty;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.duty.Settings;
import dev.brume.internal.retention.SweepDuty;
import dev.brume.internal.round.RoundDuty;
import dev.brume.internal.run.FinishDuty;
import dev.brume.internal.run.SettleDuty;
import dev.brume.internal.session.RenewDuty;
import dev.brume.internal.telling.TellDuty;
import dev.brume.notice.Sender;
import dev.brume.spi.Completion;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.TimeSource;
import dev.brume.spi.WorkerPool;
import java.time.Duration;
import java.util.Collection;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.SplittableRandom;
import java.util.UUID;
import java.util.function.Consumer;

/** One life of an instance: its duties and its workers as actions in virtual time. */
final class SimulatedInstance implements WorkerPool {
    private static final int WORKERS = 4;
    private static final long LOOK = 500_000_000L;

    private final VirtualTime time;
    private final TimeSource clocks;
    private final FaultyStore store;
    private final SplittableRandom random;
    private final Instance instance;
    private final RenewDuty keep;
    private final FinishDuty finish;
    private final SettleDuty settle;
    private final Runnable whenGone;
    private final Optional<TellDuty> tell;
    private final Set<Long> working = new HashSet<>();
    private boolean gone;
    private boolean draining;
    private long frozenUntil;

    /**
     * What makes an instance what it is.
     *
     * @param handlers that it knows
     * @param labels that it carries
     * @param lease of its session
     * @param told hears what it says
     * @param sender sends what it tells, if it tells
     */
    record Kind(
            String name,
            Collection<String> handlers,
            Set<String> labels,
            Duration lease,
            Consumer<Event> told,
            Optional<Sender> sender) {}

    SimulatedInstance(
            Kind kind,
            FaultyStore store,
            VirtualTime time,
            TimeSource clocks,
            SplittableRandom random,
            Runnable whenGone) {
        this.time = time;
        this.clocks = clocks;
        this.store = store;
        this.random = random;
        this.whenGone = whenGone;
        Settings settings = new Settings(
                kind.name(),
                "simulated",
                1,
                Map.of("main", WORKERS),
                kind.labels(),
                kind.lease(),
                Duration.ofSeconds(1),
                50,
                Settings.ownTzdata());
        instance = new Instance(settings, store, clocks, kind.told()::accept);
        instance.handlers().addAll(kind.handlers());
        instance.handlers().add(Work.PROGRAMS);
        instance.workers(this);
        instance.whenAskedToDrain(this::drain);
        keep = new RenewDuty(instance, () -> new UUID(random.nextLong(), random.nextLong()));
        settle = new SettleDuty(instance);
        tell = kind.sender()
                .map(sender -> new TellDuty(instance, List.of(sender), Optional.empty(), Runnable::run, () -> {}));
        finish = new FinishDuty(instance, () -> act(0, settle::step));
    }

    Instance instance() {
        return instance;
    }

    boolean isGone() {
        return gone;
    }

    void start() {
        drive(keep);
        drive(new RoundDuty(instance));
        drive(finish);
        drive(settle);
        drive(new SweepDuty(instance));
        tell.ifPresent(this::drive);
    }

    private void drive(Duty duty) {
        act(0, () -> {
            Duration rest = duty.step();
            long jitter = random.nextLong(1_000_000);
            time.after(rest.toNanos() + jitter, () -> drive(duty));
        });
    }

    /** Does something unless gone; later if frozen; and dies of a crash. */
    private void act(long delay, Runnable action) {
        time.after(delay, () -> {
            if (gone) {
                return;
            }
            if (time.nanos() < frozenUntil) {
                act(frozenUntil - time.nanos(), action);
                return;
            }
            try {
                action.run();
            } catch (FaultyStore.Crash crash) {
                leave();
            }
        });
    }

    private void leave() {
        gone = true;
        whenGone.run();
    }

    /** Freezes everything it does for a while, as a stopped process or a long collection would. */
    void freeze(long nanos) {
        frozenUntil = time.nanos() + nanos;
    }

    /** Cuts it off from the store for a while. */
    void cutOff(long nanos) {
        store.cutOff(nanos);
    }

    /** Lets its runs end, then closes its session; what goes on for too long is handed back. */
    private void drain() {
        if (!draining) {
            draining = true;
            long until = time.nanos() + random.nextLong(20_000_000_000L);
            waitUntilIdle(until);
        }
    }

    private void waitUntilIdle(long until) {
        act(LOOK, () -> {
            if (time.nanos() > until) {
                instance.held().forEach(run -> finish(run, fence(run), run.leasedNanos(), AttemptEnd.HANDED_BACK));
            }
            if (!instance.held().isEmpty() || !finish.idle() || !settle.idle()) {
                waitUntilIdle(until);
                return;
            }
            try {
                keep.close();
                leave();
            } catch (StoreException e) {
                waitUntilIdle(until);
            }
        });
    }

    // Workers.

    @Override
    public int free(String lane) {
        return WORKERS - working.size();
    }

    private static long fence(LeasedRun run) {
        return run.row().lease().orElseThrow().fence();
    }

    @Override
    public void start(LeasedRun run) {
        boolean known = instance.handlers().contains(run.job().needs());
        boolean bound = run.row()
                .needs()
                .session()
                .map(only -> only.equals(run.row().lease().orElseThrow().session()))
                .orElse(true);
        if (!known
                || !bound
                || !instance.settings().labels().containsAll(run.job().requireLabels())) {
            throw new AssertionError(instance.settings().instance() + " was given work it does not know: " + run);
        }
        long fence = fence(run);
        working.add(fence);
        long started = clocks.nanos();
        long length = (long) (random.nextDouble() * random.nextDouble() * 20e9);
        boolean fails = random.nextInt(5) == 0;
        act(length, () -> finish(run, fence, started, fails ? AttemptEnd.FAILED : AttemptEnd.SUCCEEDED));
    }

    private void finish(LeasedRun run, long fence, long started, AttemptEnd end) {
        if (working.remove(fence)) {
            Optional<String> error = end == AttemptEnd.SUCCEEDED ? Optional.empty() : Optional.of("simulated");
            instance.completed(Completion.of(run, run.attempt(started, clocks.nanos(), end, error)));
        }
    }

    /** Half of the work stops when asked; the other half is deaf and runs on. */
    @Override
    public void stop(LeasedRun run, StopReason why) {
        if (random.nextBoolean()) {
            AttemptEnd end = switch (why) {
                case CANCELLED -> AttemptEnd.CANCELLED;
                case SUPERSEDED -> AttemptEnd.SUPERSEDED;
                default -> AttemptEnd.LOST;
            };
            finish(run, fence(run), run.leasedNanos(), end);
        }
    }
}
