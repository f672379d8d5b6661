package dev.brume.testkit;

import dev.brume.Brume;
import dev.brume.Handler;
import dev.brume.JobName;
import dev.brume.NotThereException;
import dev.brume.Orders;
import dev.brume.Run;
import dev.brume.RunHandle;
import dev.brume.history.OneOffFilter;
import dev.brume.history.OneOffView;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.memory.MemoryStore;
import dev.brume.notice.Watch;
import dev.brume.spi.SteppedInstance;
import java.sql.Connection;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.Callable;

/**
 * Brume for tests: a store in memory, a clock that moves only when it is told to, and one instance that does what is due when time is let pass. No
 * waiting, no database, and the same each time; what it decides is decided by the engine itself.
 *
 * <pre>{@code
 * try (VirtualBrume harbour = VirtualBrume.at("2026-03-29T00:00:00Z")) {
 *     Jobs.defineAll(harbour.brume());
 *     harbour.advance(Duration.ofHours(6));
 *     harbour.ledger("tide-tables").succeeded(6);
 * }
 * }</pre>
 *
 * <p>Work takes no time unless it calls {@link #elapse}; then other work goes on beside it, as in production. A handler is called on a thread of its own while the
 * test waits for it, so that no two things ever happen at once. Confined to one thread, but for what handlers call.
 *
 * @since 0.1.0
 */
public final class VirtualBrume implements AutoCloseable {
    /** So long that nothing is renewed in a test of days, and short enough for the machine's arithmetic. */
    private static final Duration LEASE = Duration.ofDays(3650);

    private static final Duration POLL = Duration.ofMinutes(1);
    private static final RunFilter ALL = RunFilter.newest(Integer.MAX_VALUE);

    private final VirtualClock clock;
    private final Brume brume;
    private final SteppedInstance engine;
    private final TestStore store;
    private final Optional<Handler> doneBy;
    private final Set<Long> reported = new HashSet<>();
    private boolean closed;

    private VirtualBrume(Builder builder) {
        clock = new VirtualClock(builder.begin);
        store = new TestStore(new MemoryStore(clock), clock, builder.collects, builder.connections);
        Brume.Builder instance = Brume.on(store)
                .withoutLog()
                .instance("test")
                .lease(LEASE)
                .poll(POLL)
                .time(clock)
                .takesPrograms()
                .takesRequests();
        builder.lanes.forEach(instance::lane);
        builder.labels.forEach(instance::label);
        builder.watch.ifPresent(instance::watching);
        brume = instance.build();
        engine = brume.stepped();
        engine.patience(builder.realTime);
        doneBy = builder.doneBy;
        doneBy.ifPresent(engine::doneBy);
        step();
    }

    /** Begins at an instant such as {@code 2026-03-29T00:00:00Z}, with everything else as usual. */
    public static VirtualBrume at(String begin) {
        return beginning(Instant.parse(begin)).build();
    }

    /** Begins to set one up that begins at an instant. */
    public static Builder beginning(Instant begin) {
        return new Builder(begin);
    }

    /** {@return the Brume that the code under test is given: it defines, plans, orders and looks as in production} */
    public Brume brume() {
        return brume;
    }

    /** {@return what the clock reads} */
    public Instant now() {
        return clock.wall();
    }

    // Time.

    /**
     * Lets time pass, doing whatever falls due on the way, each thing at its time.
     *
     * @return the runs that have ended since this was last asked, in the order of their planned times, skipped ones too
     */
    public List<RunView> advance(Duration by) {
        return advanceTo(clock.wall().plus(by));
    }

    /**
     * Lets time pass up to an instant, inclusive.
     *
     * @throws IllegalArgumentException if it is past
     * @see #advance
     */
    public List<RunView> advanceTo(Instant until) {
        if (until.isBefore(clock.wall())) {
            throw new IllegalArgumentException("time does not go back from " + clock.wall() + " to " + until);
        }
        while (true) {
            Duration rest = step();
            Duration left = Duration.between(clock.wall(), until);
            if (left.isZero() || left.isNegative()) {
                return ended();
            }
            clock.move(rest.compareTo(left) < 0 ? rest : left);
        }
    }

    /** Does what is due at this moment. */
    public List<RunView> settle() {
        return advance(Duration.ZERO);
    }

    /**
     * Lets time pass for whoever calls.
     *
     * <p>Called by work, it lasts so long: time passes as the test advances, other work begins and ends meanwhile, a time limit comes. If the run is told to end
     * while it lasts, this returns at that time with the thread interrupted; work that goes on all the same may let time pass again.
     *
     * <p>Called by the test, the clock jumps and nobody does anything meanwhile, as if the process had been stopped; whatever fell due is then
     * done late, by the next {@link #advance}.
     *
     * @param by not negative
     */
    public void elapse(Duration by) {
        if (by.isNegative()) {
            throw new IllegalArgumentException("time does not go back by " + by);
        }
        if (!engine.elapse(by)) {
            clock.move(by);
        }
    }

    /**
     * Has the database away from now on for so long: whatever needs it fails, the instance tries again by itself, and what fell due meanwhile is done
     * once it is back. What the test looks at stays readable.
     *
     * @param length above zero; time still has to be let pass
     */
    public void outage(Duration length) {
        store.away(clock.wall().plus(length));
    }

    /** What does all work must be known by every name that jobs call their work by. */
    private Duration step() {
        doneBy.ifPresent(handler -> brume.history()
                .jobs()
                .forEach(view -> view.job()
                        .work()
                        .neededHandler()
                        .ifPresent(name -> brume.handler(
                                name, view.job().payloadType().stream().toList(), handler))));
        return engine.step();
    }

    // Runs.

    /**
     * Runs a job here and now, as an order by hand does, with its own payload.
     *
     * @param job {@code name} or {@code namespace/name}
     * <p>If its work lasts, time passes until it has ended.
     *
     * @return the run, which has ended unless it waits for another attempt or a place
     */
    public RunView run(String job) {
        return run(job, Optional.empty());
    }

    /**
     * Runs a job here and now with a payload.
     *
     * @see #run(String)
     */
    public RunView run(String job, String payload) {
        return run(job, Optional.of(payload));
    }

    private RunView run(String job, Optional<String> payload) {
        Orders orders = brume.orders("test", "");
        JobName key = JobName.parse(job);
        RunHandle ordered = payload.isPresent() ? orders.runNow(key, payload.get()) : orders.runNow(key);
        long run = ordered.id();
        Duration rest = step();
        while (engine.isGoing(run)) {
            clock.move(rest);
            rest = step();
        }
        return look(run);
    }

    /** {@return a run as it stands} */
    public RunView look(long run) {
        return brume.history().run(run).orElseThrow(() -> NotThereException.ofRun(run, ""));
    }

    /** {@return a run as it stands, with the progress that its work has noted; to be called by the work} */
    public RunView look(Run run) {
        engine.writeProgress();
        return look(run.id());
    }

    /** {@return the one-offs that wait, earliest first} */
    public List<OneOffView> planned() {
        return brume.history().oneOffs(OneOffFilter.first(Integer.MAX_VALUE));
    }

    /** {@return everything on record, to be asserted on} */
    public LedgerAssert ledger() {
        return new LedgerAssert("all jobs", runs(ALL), brume.history().spans(ALL));
    }

    /** {@return what is on record of a job, to be asserted on} */
    public LedgerAssert ledger(String job) {
        RunFilter own = ALL.of(JobName.parse(job));
        return new LedgerAssert(job, runs(own), brume.history().spans(own));
    }

    private List<RunView> runs(RunFilter filter) {
        List<RunView> runs = new ArrayList<>(brume.history().runs(filter));
        runs.sort(Comparator.comparing((RunView run) -> run.owed().planned()).thenComparing(RunView::id));
        return runs;
    }

    private List<RunView> ended() {
        return runs(ALL).stream()
                .filter(run -> run.outcome().isPresent() && reported.add(run.id()))
                .toList();
    }

    @Override
    public void close() {
        if (!closed) {
            closed = true;
            engine.close();
            brume.close();
        }
    }

    /** Sets one up. Confined to one thread. */
    public static final class Builder {
        private final Instant begin;
        private final Map<String, Integer> lanes = new LinkedHashMap<>();
        private final List<String> labels = new ArrayList<>();
        private boolean collects;
        private Optional<Callable<Connection>> connections = Optional.empty();
        private Optional<Handler> doneBy = Optional.empty();
        private Optional<Watch> watch = Optional.empty();
        private Duration realTime = Duration.ofSeconds(30);

        private Builder(Instant begin) {
            this.begin = Objects.requireNonNull(begin, "begin");
        }

        /** Serves a lane with so many workers; the main lane with 16 if none is named. */
        public Builder lane(String lane, int workers) {
            lanes.put(lane, workers);
            return this;
        }

        /** Lets the instance carry a label. */
        public Builder label(String label) {
            labels.add(label);
            return this;
        }

        /** Leaves one-offs waiting instead of running them, so that a test can look at what was planned. */
        public Builder collectOneOffs() {
            collects = true;
            return this;
        }

        /**
         * Gives guarded transactions connections of the application's own database, such as one in memory. The end of the run
         * is then kept here and not there: that both are one commit is for a test on a real database to show.
         */
        public Builder connections(Callable<Connection> source) {
            connections = Optional.of(source);
            return this;
        }

        /**
         * Sets for how long of real time a handler may go on without letting time pass, before the test fails with where it is; 30 s otherwise. What really
         * sleeps, or waits for other work, would hold up the test for ever.
         *
         * @param most above zero
         */
        public Builder realTimeLimit(Duration most) {
            if (most.isNegative() || most.isZero()) {
                throw new IllegalArgumentException("the limit of real time, " + most + ", is not above zero");
            }
            realTime = most;
            return this;
        }

        /** Has all work done by one handler, whatever the jobs say: no program is started, no request is sent. */
        public Builder workDoneBy(Handler handler) {
            doneBy = Optional.of(handler);
            return this;
        }

        /** Has it look for what does not happen by itself, such as silence, as often as it would in real time. */
        public Builder watching(Watch looks) {
            watch = Optional.of(looks);
            return this;
        }

        /** Creates it. */
        public VirtualBrume build() {
            return new VirtualBrume(this);
        }
    }
}
