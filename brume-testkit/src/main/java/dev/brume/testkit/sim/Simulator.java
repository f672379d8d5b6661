package dev.brume.testkit.sim;

import dev.brume.Attempt;
import dev.brume.DefinitionSet;
import dev.brume.IfBusy;
import dev.brume.IfFailed;
import dev.brume.IfLost;
import dev.brume.IfMissed;
import dev.brume.Job;
import dev.brume.duties.Instance;
import dev.brume.duties.Registrar;
import dev.brume.duties.Settings;
import dev.brume.memory.MemoryStore;
import dev.brume.port.AfterEnd;
import dev.brume.port.JobView;
import dev.brume.port.LeasedRun;
import dev.brume.schedule.EverySchedule;
import dev.brume.schedule.Terms;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.SplittableRandom;
import java.util.UUID;
import java.util.stream.Collectors;

/**
 * Runs several instances against one store in virtual time and checks the promises at every commit.
 *
 * <p>Everything follows from the seed: jobs, work, faults and the order of things. A broken promise is
 * thrown with the seed, and the same seed breaks it again. Confined to one thread.
 */
public final class Simulator {
    private static final Instant BEGIN = Instant.parse("2026-03-28T00:00:00Z");
    private static final Duration LEASE = Duration.ofSeconds(6);
    private static final long SECOND = 1_000_000_000L;

    private final long seed;
    private final Faults faults;
    private final int count;
    private final SplittableRandom random;
    private final VirtualTime time = new VirtualTime(BEGIN);
    private final MemoryStore store = new MemoryStore(time);
    private final InvariantChecker checker = new InvariantChecker();
    private final List<SimulatedInstance> instances = new ArrayList<>();
    private int deaths;

    /** What a simulation came to. */
    public record Result(int endedRuns, int takenOver, int deaths, long steps) {}

    /**
     * Sets up a simulation.
     *
     * @param seed from which everything follows
     * @param instances how many
     */
    public Simulator(long seed, int instances, Faults faults) {
        this.seed = seed;
        this.count = instances;
        this.faults = faults;
        this.random = new SplittableRandom(seed);
    }

    /**
     * Simulates.
     *
     * @throws AssertionError if a promise is broken; it names the seed
     */
    public Result run(Duration length) {
        long steps = 0;
        try {
            define();
            for (int i = 0; i < count; i++) {
                launch("instance-" + i);
            }
            everySecond();
            while (time.step(length.toNanos())) {
                steps++;
            }
            checker.checkAccounts(store.history().jobs(), BEGIN.minusNanos(1000));
            checkChains();
        } catch (RuntimeException | AssertionError e) {
            throw new AssertionError("seed " + seed + ", step " + steps + ", " + time.instant() + ": " + e, e);
        }
        return new Result(checker.endedRuns(), checker.takenOver(), deaths, steps);
    }

    /** A schedule that goes by ends is due, or waits for a run that is live or ended just now; else it would be dead. */
    private void checkChains() {
        Instant lately = time.instant().minus(LEASE.multipliedBy(4));
        for (JobView view : store.history().jobs()) {
            boolean chained = view.job().byEnds().isPresent();
            Optional<AfterEnd> state = view.row().afterEnd();
            boolean due = state.flatMap(AfterEnd::due).isPresent();
            boolean awaited = state.flatMap(AfterEnd::run)
                    .flatMap(run -> store.history().run(run))
                    .filter(run -> run.outcome().isEmpty()
                            || run.lastAttempt()
                                    .flatMap(Attempt::endedAt)
                                    .filter(lately::isBefore)
                                    .isPresent())
                    .isPresent();
            if (chained && !due && !awaited) {
                throw new AssertionError("the chain of " + view.row().key() + " is broken: " + state);
            }
        }
    }

    private void define() {
        Settings settings =
                new Settings("definer", "simulated", 1, Map.of("main", 1), LEASE, Duration.ofSeconds(1), 50);
        FaultyStore watched = new FaultyStore(store, checker, Faults.none(), random.split());
        Instance definer = new Instance(settings, watched, time, event -> {});
        List<Job> jobs = new ArrayList<>();
        for (int i = 0; i < 3 + random.nextInt(8); i++) {
            jobs.add(job("job-" + i));
        }
        new Registrar(definer).define(DefinitionSet.of("simulated", jobs), "simulator");
    }

    private Job job(String name) {
        Job.Builder job = Job.named(name).program("simulated").priority(random.nextInt(10));
        if (random.nextBoolean()) {
            job.every(Duration.ofSeconds(1 + random.nextInt(30)));
        } else {
            job.cron("*/" + (1 + random.nextInt(30)) + " * * * * *", "Atlantic/Azores");
        }
        if (random.nextInt(4) == 0) {
            job.schedule(EverySchedule.of(Duration.ofSeconds(7)).with(Terms.NONE.atMost(1 + random.nextInt(200))));
        }
        if (random.nextInt(4) == 0) {
            job.afterFinish(Duration.ofSeconds(2 + random.nextInt(20)));
        }
        job.ifBusy(
                switch (random.nextInt(3)) {
                    case 0 -> IfBusy.skip();
                    case 1 -> IfBusy.waiting(1 + random.nextInt(4));
                    default -> IfBusy.alongside(1 + random.nextInt(4));
                });
        job.ifMissed(
                switch (random.nextInt(3)) {
                    case 0 -> IfMissed.skip().within(Duration.ofSeconds(5));
                    case 1 -> IfMissed.runEach(1 + random.nextInt(5)).within(Duration.ofSeconds(5));
                    default -> IfMissed.runLatest().within(Duration.ofSeconds(5));
                });
        job.ifFailed(IfFailed.attempts(1 + random.nextInt(3), Duration.ofSeconds(random.nextInt(5))));
        job.ifLost(random.nextInt(3) == 0 ? IfLost.GIVE_UP : IfLost.RUN_AGAIN);
        return job.build();
    }

    private void launch(String name) {
        FaultyStore way = new FaultyStore(store, checker, faults, random.split());
        SimulatedInstance instance =
                new SimulatedInstance(name, LEASE, way, time, random.split(), () -> relaunch(name));
        instances.add(instance);
        instance.start();
    }

    private void relaunch(String name) {
        deaths++;
        time.after(random.nextLong(20 * SECOND), () -> launch(name));
    }

    private void everySecond() {
        instances.removeIf(SimulatedInstance::isDead);
        for (SimulatedInstance instance : instances) {
            if (random.nextDouble() < faults.pausePerSecond()) {
                instance.freeze(random.nextLong(3 * LEASE.toNanos()));
            }
            instance.instance().sessionId().ifPresent(session -> check(instance.instance(), session));
        }
        time.after(SECOND, this::everySecond);
    }

    private void check(Instance instance, UUID session) {
        Set<Long> fences = instance.held().stream()
                .map(LeasedRun::row)
                .map(row -> row.lease().orElseThrow().fence())
                .collect(Collectors.toSet());
        // One lease until reconciled, and up to three more while it may be frozen, out of reach or about to lapse.
        checker.checkMemory(session, fences, time.nanos(), 4 * LEASE.toNanos());
    }
}
