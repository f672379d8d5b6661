package dev.brume.simulator;

import dev.brume.Attempt;
import dev.brume.DefinitionSet;
import dev.brume.Event;
import dev.brume.GateKey;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.PauseOrder;
import dev.brume.StoreException;
import dev.brume.history.AfterEnd;
import dev.brume.history.JobView;
import dev.brume.history.Pause;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.insight.internal.VirtualTime;
import dev.brume.internal.define.Registrar;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.duty.Settings;
import dev.brume.internal.order.ClusterOrders;
import dev.brume.internal.order.Edit;
import dev.brume.internal.order.HandOrders;
import dev.brume.internal.order.Joined;
import dev.brume.internal.order.OneOffOrders;
import dev.brume.internal.order.Orderer;
import dev.brume.internal.order.PauseOrders;
import dev.brume.memory.MemoryStore;
import dev.brume.spi.Ability;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.Share;
import dev.brume.spi.Store;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
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
 * <p>Everything follows from the scenario: jobs, work, faults and the order of things. Confined to one thread.
 */
public final class Simulator {
    private static final Instant BEGIN = Instant.parse("2026-03-28T00:00:00Z");
    private static final Duration LEASE = Duration.ofSeconds(6);
    private static final Duration LATELY = Duration.ofMinutes(2);
    private static final long SECOND = 1_000_000_000L;
    private static final int MOST_EVENTS = 40;

    private final Scenario scenario;
    private final Faults faults;
    private final SplittableRandom random;

    /** What those decide by who only watch, so that all else is the same without them. */
    private final SplittableRandom watching;

    private final Clocks clocks = new Clocks(BEGIN);
    private final VirtualTime time = clocks.truth();
    private final MemoryStore store = new MemoryStore(clocks::database);
    /** Every instance may be gone, or cut off, for a while. */
    private static final Duration MOST_IN_VAIN = Duration.ofMinutes(2);

    private final InvariantChecker checker = new InvariantChecker(time::nanos, LEASE.toNanos() * 2 / 3);
    private final FaultPlan plan;
    private final FaultyStore.World world;
    private final RandomDefinitions definitions;
    private final List<SimulatedInstance> instances = new ArrayList<>();
    private final Deque<String> said = new ArrayDeque<>();
    private final Instance office;
    private final Rememberer rememberer;
    private final Optional<Deliveries> deliveries;
    private long nextFailOver;
    private int deaths;
    private int failOvers;
    private int clockJumps;

    /**
     * What a simulation came to.
     *
     * @param endedRuns how many runs ended
     * @param takenOver how many were taken over from dead instances
     * @param deaths how many instances died or left
     * @param failOvers how often the store became an older copy
     * @param clockJumps how often its clock jumped
     * @param faults how many faults chance brought up
     * @param delivered how many notices arrived
     * @param answersLost of how many deliveries the answer was lost
     * @param steps how many actions there were
     */
    public record Result(
            int endedRuns,
            int takenOver,
            int deaths,
            int failOvers,
            int clockJumps,
            int faults,
            int delivered,
            int answersLost,
            long steps) {}

    /** Thrown when a promise is broken; it tells when, and what was said last. */
    static final class Broken extends AssertionError {
        private static final long serialVersionUID = 1L;

        private final String what;
        private final transient Instant at;
        private final int faults;
        private final String said;

        Broken(Throwable cause, Instant at, int faults, List<String> said) {
            super(cause.toString(), cause);
            this.what = cause instanceof InvariantChecker.Violation violation
                    ? violation.invariant()
                    : cause.getClass().getName();
            this.at = at;
            this.faults = faults;
            this.said = String.join("\n  ", said);
        }

        /** Which promise, or which exception. */
        String what() {
            return what;
        }

        Duration after() {
            return Duration.between(BEGIN, at);
        }

        int faults() {
            return faults;
        }

        String said() {
            return said;
        }
    }

    /** Sets up a simulation. */
    public Simulator(Scenario scenario) {
        this(scenario, Sabotage.NONE);
    }

    /** Sets up a simulation in which something is broken on purpose. */
    public Simulator(Scenario scenario, Sabotage sabotage) {
        this.scenario = scenario;
        this.faults = scenario.faults();
        this.random = new SplittableRandom(scenario.seed());
        this.watching = new SplittableRandom(~scenario.seed());
        this.plan = new FaultPlan(scenario.only());
        this.world = new FaultyStore.World(time, checker, plan, sabotage, LEASE);
        this.definitions = new RandomDefinitions(random.split());
        this.rememberer = new Rememberer(store.history(), time, watching.split());
        // In others nothing is told, so that they are as they would be without.
        this.deliveries = scenario.seed() % 3 == 1
                ? Optional.of(new Deliveries(store.history(), () -> plan.happens(watching, faults.answerLost() * 20)))
                : Optional.empty();
        this.office = new Instance(
                new Settings("office", "simulated", 1, Map.of("main", 1), LEASE, Duration.ofSeconds(1), 50),
                new FaultyStore(store, world, faults, random.split()),
                clocks.machine(skew(), 0),
                this::note);
    }

    private Duration skew() {
        return Duration.ofSeconds(faults.skew() == 0 ? 0 : random.nextInt(2 * faults.skew()) - faults.skew());
    }

    private void note(Event event) {
        if (said.size() == MOST_EVENTS) {
            said.removeFirst();
        }
        said.addLast(time.wall() + " " + event.instance() + " " + event.kind()
                + event.job().map(job -> " " + job).orElse("")
                + (event.run().isPresent() ? " run " + event.run().getAsLong() : "") + " " + event.text());
    }

    /**
     * Simulates.
     *
     * @throws AssertionError if a promise is broken
     */
    public Result run() {
        long steps = 0;
        try {
            begin();
            while (time.step(scenario.length().toNanos())) {
                steps++;
            }
            checker.checkAccounts(store.history(), earliest().minusSeconds(90 + faults.skew()));
            checkChains();
            deliveries.ifPresent(each -> each.check(earliest().minusSeconds(90 + faults.skew())));
        } catch (RuntimeException | AssertionError e) {
            throw new Broken(e, time.wall(), plan.count(), List.copyOf(said));
        }
        return new Result(
                checker.endedRuns(),
                checker.takenOver(),
                deaths,
                failOvers,
                clockJumps,
                plan.count(),
                deliveries.map(Deliveries::arrived).orElse(0),
                deliveries.map(Deliveries::lost).orElse(0),
                steps);
    }

    /** The earliest that the instances may lately have taken it to be: what became due by a jump just now is not late. */
    private Instant earliest() {
        Instant database = clocks.earliestLately(LATELY);
        return database.isBefore(time.wall()) ? database : time.wall();
    }

    private void begin() {
        RandomDefinitions.LIMITS.forEach((name, places) -> checker.gate(new GateKey(GateKey.Kind.LIMIT, name), places));
        RandomDefinitions.RATES.forEach((name, rate) -> checker.rate(new GateKey(GateKey.Kind.LIMIT, name), rate));
        checker.gate(new GateKey(GateKey.Kind.EXCLUSIVE, "berth-0"), 1);
        checker.gate(new GateKey(GateKey.Kind.EXCLUSIVE, "berth-1"), 1);
        int wanted = 3 + random.nextInt(8);
        // Those that follow others have higher numbers, and must be there first.
        for (int i = Math.min(wanted, scenario.jobs()) - 1; i >= 0; i--) {
            define(definitions.job(i, scenario.jobs()));
        }
        deliveries.ifPresent(each -> ask(() -> new Registrar(office)
                .define(
                        DefinitionSet.of("notices", List.of()).withTelling(Deliveries.TELLING),
                        Edit.by(Orderer.at(office, "simulator", "")))));
        for (int i = 0; i < scenario.instances(); i++) {
            launch(i);
        }
        if (scenario.seed() % 2 == 0) {
            // Who follows notices older copies too, so in every other simulation the instances are alone with that.
            Settings settings =
                    new Settings("window", "simulated", 1, Map.of("main", 1), LEASE, Duration.ofSeconds(1), 50);
            new Follower(
                            new Instance(
                                    settings,
                                    new FaultyStore(store, world, faults, watching.split()),
                                    clocks.machine(Duration.ZERO, 0),
                                    this::note),
                            time,
                            checker,
                            watching.split())
                    .follow();
        }
        rememberer.remember();
        new Bookkeeper(office, store.history(), time, watching.split()).sumUp();
        everySecond();
    }

    /** A chain must be due, or wait for a run that is live or ended just now; else it would be dead. */
    private void checkChains() {
        Instant lately = earliest().minus(LEASE.multipliedBy(6)).minusSeconds(60 + faults.skew());
        // Nothing tells when a run ended that never began; that its end is still to be settled is all there is to know.
        boolean unsettled = store.outlook(
                        new Store.Look(Set.of(), Ability.NONE, Share.WHOLE, Optional.empty(), /* wide= */ true))
                .unsettled();
        for (JobView view : store.history().jobs()) {
            boolean chained = view.job().byEnds().isPresent();
            Optional<AfterEnd> state = view.row().afterEnd();
            boolean due = state.flatMap(AfterEnd::due).isPresent();
            boolean awaited = state.flatMap(AfterEnd::run)
                    .flatMap(run -> store.history().run(run))
                    .filter(run -> run.outcome().isEmpty()
                            || run.attempts().isEmpty() && unsettled
                            || run.lastAttempt()
                                    .flatMap(Attempt::endedAt)
                                    .filter(lately::isBefore)
                                    .isPresent())
                    .isPresent();
            if (chained && !due && !awaited) {
                throw new AssertionError("the chain of " + view.row().name() + " is broken: " + state);
            }
        }
    }

    // People and files.

    private void define(Job job) {
        DefinitionSet set = DefinitionSet.of("simulated", List.of(job))
                .withLimits(RandomDefinitions.LIMITS)
                .withRates(RandomDefinitions.RATES);
        ask(() -> new Registrar(office).define(set, Edit.by(Orderer.at(office, "simulator", ""))));
    }

    private void redefine() {
        int number = random.nextInt(scenario.jobs());
        if (random.nextInt(5) == 0) {
            JobName job = JobName.parse(RandomDefinitions.name(number));
            ask(() -> new Registrar(office).drop(job, Edit.by(Orderer.at(office, "simulator", ""))));
        } else {
            define(definitions.job(number, scenario.jobs()));
        }
    }

    /** What a person may order about a job, or about some run of lately. */
    private void byHand() {
        JobName job = JobName.parse("job-" + random.nextInt(scenario.jobs()));
        Pause.Scope scope = random.nextInt(8) == 0 ? Pause.Scope.EVERYTHING : Pause.Scope.of(job);
        HandOrders orders = new HandOrders(office, Orderer.at(office, "simulator", ""));
        PauseOrders pauses = new PauseOrders(office, Orderer.at(office, "simulator", ""));
        PauseOrder pause = pause(scope);
        int choice = random.nextInt(9);
        List<RunView> runs = store.history().runs(RunFilter.newest(20));
        long run = runs.isEmpty() ? 0 : runs.get(random.nextInt(runs.size())).id();
        ask(() -> {
            switch (choice) {
                case 0 -> orders.runNow(job, Optional.empty());
                case 1 -> orders.rerun(run);
                case 2 -> orders.skipNext(job);
                case 3 -> pause(pauses, pause);
                case 4, 5 -> pauses.resume(scope);
                case 6 -> pauses.takeBack(scope);
                default -> orders.cancel(run);
            }
        });
    }

    private PauseOrder pause(Pause.Scope scope) {
        PauseOrder now = PauseOrder.of(scope);
        Instant from = time.wall().plusSeconds(5 + random.nextInt(20));
        PauseOrder later = now.from(from).until(from.plusSeconds(5 + random.nextInt(40)));
        return switch (random.nextInt(4)) {
            case 0, 1 -> now;
            case 2 -> later;
            default -> later.leavingOut();
        };
    }

    /** A pause that was ordered before it begins holds from its first instant on. */
    private void pause(PauseOrders pauses, PauseOrder order) {
        pauses.pause(order);
        Instant now = store.history().now();
        order.from()
                .filter(now::isBefore)
                .ifPresent(from ->
                        checker.paused(order.scope(), from, order.until().orElseThrow()));
    }

    private void order() {
        if (random.nextBoolean()) {
            byHand();
            return;
        }
        JobName job = JobName.parse("job-" + random.nextInt(scenario.jobs()));
        String key = "order-" + random.nextInt(40);
        Instant at = time.wall().plusSeconds(random.nextInt(30) - 5);
        OneOffOrders orders = new OneOffOrders(office);
        int choice = random.nextInt(6);
        ask(() -> {
            switch (choice) {
                case 0 -> orders.move(job, key, at.plusSeconds(20), Joined.NONE);
                case 1 -> orders.drop(job, key, Joined.NONE);
                case 2 -> orders.add(OneOff.of(job, key).at(at).exclusive("berth-" + key.length()), Joined.NONE);
                case 3 -> orders.addOrMove(OneOff.of(job, key).at(at).exclusive("berth-" + key.length()), Joined.NONE);
                default -> orders.add(OneOff.of(job, key).at(at), Joined.NONE);
            }
        });
    }

    /** Asks once more if nobody knows how it came out, as people do; gives up if the store is away. */
    private void ask(Runnable request) {
        for (int i = 0; i < 3; i++) {
            try {
                request.run();
                return;
            } catch (StoreException e) {
                if (e.trouble() == StoreException.Trouble.UNREACHABLE) {
                    return;
                }
            } catch (IllegalArgumentException | FaultyStore.Crash e) {
                return;
            }
        }
    }

    // Instances.

    private void launch(int number) {
        FaultyStore way = new FaultyStore(store, world, faults, random.split());
        // The first knows everything; of the others, half are of an older version.
        boolean newest = number == 0 || random.nextBoolean();
        SimulatedInstance.Kind kind = new SimulatedInstance.Kind(
                "instance-" + number,
                newest ? RandomDefinitions.HANDLERS : RandomDefinitions.HANDLERS.subList(0, 1),
                number == 0 || random.nextBoolean() ? Set.of(RandomDefinitions.LABEL) : Set.of(),
                LEASE,
                this::note,
                deliveries.map(each -> each));
        SimulatedInstance instance = new SimulatedInstance(
                kind,
                way,
                time,
                clocks.machine(skew(), random.nextInt(401) - 200),
                random.split(),
                () -> relaunch(number));
        instances.add(instance);
        instance.start();
    }

    private void relaunch(int number) {
        deaths++;
        time.after(random.nextLong(20 * SECOND), () -> launch(number));
    }

    private boolean happens(double share) {
        return plan.happens(random, share);
    }

    private void everySecond() {
        instances.removeIf(SimulatedInstance::isGone);
        for (SimulatedInstance each : instances) {
            if (happens(faults.pause())) {
                each.freeze(random.nextLong(3 * LEASE.toNanos()));
            }
            if (happens(faults.cutOff())) {
                each.cutOff(random.nextLong(2 * LEASE.toNanos()));
            }
            if (happens(faults.drain())) {
                ask(() -> new ClusterOrders(office)
                        .drain(
                                each.instance().settings().instance(),
                                Edit.by(Orderer.at(each.instance(), "simulator", ""))));
            }
            each.instance().sessionId().ifPresent(session -> check(each.instance(), session));
        }
        if (happens(faults.redefine())) {
            redefine();
        }
        if (happens(faults.order())) {
            order();
        }
        if (happens(faults.failOver())) {
            failOverSoon();
        }
        if (happens(faults.clockJump())) {
            jump();
        }
        List<JobView> jobs = store.history().jobs();
        checker.checkCursors(jobs, BEGIN.plus(Duration.ofDays(365)));
        checker.checkRoom(jobs, time.nanos(), MOST_IN_VAIN.toNanos());
        time.after(SECOND, this::everySecond);
    }

    private void check(Instance instance, UUID session) {
        Set<Long> fences = instance.held().stream()
                .map(LeasedRun::row)
                .map(row -> row.lease().orElseThrow().fence())
                .collect(Collectors.toSet());
        // One lease until reconciled, and up to four more while it may be frozen, out of reach or about to lapse.
        checker.checkMemory(session, fences, time.nanos(), 5 * LEASE.toNanos());
    }

    // The store.

    /** One at a time: a copy of a copy that nobody ever learned of is beyond what anyone could notice. */
    private void failOverSoon() {
        if (time.nanos() < nextFailOver) {
            return;
        }
        nextFailOver = time.nanos() + 30 * SECOND;
        failOvers++;
        MemoryStore.Copy copy = store.copy();
        Books books = checker.copy();
        time.after(random.nextLong(5 * SECOND), () -> {
            store.failOver(copy);
            rememberer.forget();
            checker.goBackTo(books);
            deliveries.ifPresent(Deliveries::goneBack);
        });
    }

    private void jump() {
        clockJumps++;
        rememberer.stop();
        int choice = random.nextInt(5);
        if (choice == 4) {
            clocks.databaseOff(Duration.ofDays(3652));
            time.after(random.nextLong(60 * SECOND), () -> clocks.databaseOff(Duration.ZERO));
        } else {
            List<Duration> offs =
                    List.of(Duration.ofSeconds(30), Duration.ofSeconds(-30), Duration.ofHours(1), Duration.ofHours(-1));
            clocks.databaseOff(offs.get(choice));
        }
    }
}
