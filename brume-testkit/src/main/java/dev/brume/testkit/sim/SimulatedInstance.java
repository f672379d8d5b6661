package dev.brume.testkit.sim;

import dev.brume.AttemptEnd;
import dev.brume.StopReason;
import dev.brume.duties.Duty;
import dev.brume.duties.FinishDuty;
import dev.brume.duties.Instance;
import dev.brume.duties.KeepDuty;
import dev.brume.duties.RoundDuty;
import dev.brume.duties.Settings;
import dev.brume.port.Completion;
import dev.brume.port.LeasedRun;
import dev.brume.port.Store;
import dev.brume.port.WorkerPool;
import java.time.Duration;
import java.util.HashSet;
import java.util.Optional;
import java.util.Set;
import java.util.SplittableRandom;
import java.util.UUID;

/** One life of an instance: its duties and its workers as actions in virtual time. */
final class SimulatedInstance implements WorkerPool {
    private static final int WORKERS = 4;

    private final VirtualTime time;
    private final SplittableRandom random;
    private final Instance instance;
    private final Runnable whenDead;
    private final Set<Long> working = new HashSet<>();
    private boolean dead;
    private long frozenUntil;

    SimulatedInstance(
            String name, Duration lease, Store store, VirtualTime time, SplittableRandom random, Runnable whenDead) {
        this.time = time;
        this.random = random;
        this.whenDead = whenDead;
        Settings settings =
                new Settings(name, "simulated", 1, java.util.Map.of("main", WORKERS), lease, Duration.ofSeconds(1), 50);
        instance = new Instance(settings, store, time, event -> {});
        instance.workers(this);
    }

    Instance instance() {
        return instance;
    }

    boolean isDead() {
        return dead;
    }

    void start() {
        drive(new KeepDuty(instance, () -> new UUID(random.nextLong(), random.nextLong())));
        drive(new RoundDuty(instance));
        drive(new FinishDuty(instance));
    }

    private void drive(Duty duty) {
        act(0, () -> {
            Duration rest = duty.step();
            long jitter = random.nextLong(1_000_000);
            time.after(rest.toNanos() + jitter, () -> drive(duty));
        });
    }

    /** Does something unless dead; later if frozen; and dies of a crash. */
    private void act(long delay, Runnable action) {
        time.after(delay, () -> {
            if (dead) {
                return;
            }
            if (time.nanos() < frozenUntil) {
                act(frozenUntil - time.nanos(), action);
                return;
            }
            try {
                action.run();
            } catch (FaultyStore.Crash crash) {
                dead = true;
                whenDead.run();
            }
        });
    }

    /** Freezes everything it does for a while, as a stopped process or a long collection would. */
    void freeze(long nanos) {
        frozenUntil = time.nanos() + nanos;
    }

    // Workers.

    @Override
    public int free(String lane) {
        return WORKERS - working.size();
    }

    @Override
    public void start(LeasedRun run) {
        long fence = run.row().lease().orElseThrow().fence();
        working.add(fence);
        long started = time.nanos();
        long length = (long) (random.nextDouble() * random.nextDouble() * 20e9);
        boolean fails = random.nextInt(5) == 0;
        act(length, () -> finish(run, fence, started, fails ? AttemptEnd.FAILED : AttemptEnd.SUCCEEDED));
    }

    private void finish(LeasedRun run, long fence, long started, AttemptEnd end) {
        if (working.remove(fence)) {
            Optional<String> error = end == AttemptEnd.SUCCEEDED ? Optional.empty() : Optional.of("simulated");
            instance.completed(
                    new Completion(run, end, error, Optional.empty(), Optional.empty(), started, time.nanos()));
        }
    }

    /** Half of the work stops when asked; the other half is deaf and runs on. */
    @Override
    public void stop(LeasedRun run, StopReason why) {
        if (random.nextBoolean()) {
            long fence = run.row().lease().orElseThrow().fence();
            finish(run, fence, run.leasedNanos(), AttemptEnd.LOST);
        }
    }
}
