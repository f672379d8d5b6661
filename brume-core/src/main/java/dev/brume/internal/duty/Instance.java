package dev.brume.internal.duty;

import dev.brume.EngineListener;
import dev.brume.Event;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.StopReason;
import dev.brume.StoreAnswer;
import dev.brume.StoreException;
import dev.brume.Work;
import dev.brume.history.SessionRow;
import dev.brume.internal.notice.NoticeRules;
import dev.brume.internal.result.RunWatch;
import dev.brume.schedule.Durations;
import dev.brume.spi.Ability;
import dev.brume.spi.Completion;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.Outlook;
import dev.brume.spi.ProgressNote;
import dev.brume.spi.SessionLease;
import dev.brume.spi.Share;
import dev.brume.spi.Store;
import dev.brume.spi.TimeSource;
import dev.brume.spi.Traces;
import dev.brume.spi.Transaction;
import dev.brume.spi.WorkerPool;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Queue;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.ConcurrentMap;
import java.util.concurrent.atomic.AtomicLong;
import java.util.concurrent.atomic.AtomicReference;
import java.util.function.Function;
import java.util.function.Supplier;
import java.util.function.UnaryOperator;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * The memory of one instance: its session, the runs it holds, the ends it has not yet reported.
 *
 * <p>The duties share it. Sessions and runs are written by the duties only; completions come from the
 * workers. Safe for use by many threads.
 */
public final class Instance {
    private static final Logger LOG = LoggerFactory.getLogger(Instance.class);
    private static final int MOST_REPEATS = 8;
    private static final int MOST_PROBLEMS = 1000;
    /** One that comes and goes within seconds is told of as seldom as any other trouble. */
    private static final String AWAY = "the database is away";

    /** Stands for a database that answers. */
    private static final long REACHED = Long.MIN_VALUE;

    private static final Duration PROBLEM_AGAIN = Duration.ofSeconds(10);

    private static final Set<Event.Kind> NOTABLE = Set.of(
            Event.Kind.FAILED, Event.Kind.BACKING_OFF, Event.Kind.SKIPPED, Event.Kind.MISSED, Event.Kind.TAKEN_OVER);

    private final AtomicLong awaySince = new AtomicLong(REACHED);
    private final Settings settings;
    private final Store store;
    private final TimeSource time;
    private final EngineListener listener;
    private final Definitions definitions = new Definitions();
    private final Set<String> handlers = ConcurrentHashMap.newKeySet();
    private final ConcurrentMap<Long, LeasedRun> held = new ConcurrentHashMap<>();
    private final Queue<Completion> completions = new ConcurrentLinkedQueue<>();
    private final Queue<Long> ended = new ConcurrentLinkedQueue<>();
    private final ConcurrentMap<String, Long> problems = new ConcurrentHashMap<>();
    private final Printing printing;
    private final ConcurrentMap<Long, Map.Entry<LeasedRun, ProgressNote>> notes = new ConcurrentHashMap<>();
    private final ClockGuard guard;
    private volatile Share share = Share.WHOLE;
    private volatile Runnable whenAskedToDrain = () -> {};
    private final RunWatch watch;
    private volatile Traces traces = Traces.NONE;
    private volatile boolean awaitedElsewhere;
    private volatile Runnable whenReady = () -> {};
    private volatile @Nullable WorkerPool workers;
    private volatile @Nullable Session session;
    private volatile ClockReading clock;
    private volatile boolean draining;
    private final Turns turns;
    private volatile NoticeRules noticeRules = NoticeRules.NONE;
    private volatile Runnable whenNotable = () -> {};
    private final AtomicReference<Session> endTold = new AtomicReference<>();

    /**
     * The session as this instance knows it.
     *
     * @param id random
     * @param epoch in which it was opened
     * @param leaseEndNanos the monotonic clock when its lease ends, counted from before it was asked for
     * @param lease as the database has it
     */
    public record Session(UUID id, long epoch, long leaseEndNanos, SessionLease lease) {
        public Session renewed(Instant at, long endNanos) {
            return new Session(id, epoch, endNanos, new SessionLease(id, epoch, at, lease.timeline()));
        }
    }

    /** The database's clock and the monotonic one, read together. */
    private record ClockReading(Instant database, long nanos) {}

    /** Creates the memory of an instance that has no session yet. */
    public Instance(Settings settings, Store store, TimeSource time, EngineListener listener) {
        this.settings = settings;
        this.store = store;
        this.time = time;
        this.listener = listener;
        this.printing = new Printing(time);
        this.clock = new ClockReading(time.wall(), time.nanos());
        this.guard = new ClockGuard(settings.lease(), time.nanos());
        this.turns = new Turns(settings.lease());
        this.watch = new RunWatch("brume-" + settings.instance() + "-results", store);
        store.fit(settings.lease());
    }

    /** Sets who carries out attempts; once, before any duty is driven. */
    public void workers(WorkerPool pool) {
        workers = pool;
    }

    public WorkerPool workers() {
        return Objects.requireNonNull(workers, "driven before it has workers");
    }

    /** {@return how the instance is set up} */
    public Settings settings() {
        return settings;
    }

    public Store store() {
        return store;
    }

    /** Sets what carries traces along; before any duty is driven. */
    public void traces(Traces all) {
        traces = all == Traces.NONE ? all : new SafeTraces(all, thrown -> report("runs cannot be traced", thrown));
    }

    /** {@return what carries traces along} */
    public Traces traces() {
        return traces;
    }

    /** {@return the clocks} */
    public TimeSource time() {
        return time;
    }

    public Definitions definitions() {
        return definitions;
    }

    /** {@return the names of the handlers it can call, and the kinds of work that it takes; add to it to register one} */
    public Set<String> handlers() {
        return handlers;
    }

    /** {@return what it has that runs may need} */
    public Ability ability() {
        return new Ability(Set.copyOf(handlers), settings.labels(), sessionId());
    }

    /** {@return the jobs that it plans of its own accord, as far as it knows the others} */
    public Share share() {
        return share;
    }

    /** Sets that share. Safe for use by any thread. */
    public void share(Share own) {
        share = own;
    }

    // Time.

    /**
     * Takes a reading of the database's clock, and tells if it jumped.
     *
     * @param before the monotonic clock before the database was asked
     * @return by how much it jumped, if it did
     */
    public Optional<Duration> readClock(Instant database, long before) {
        long after = time.nanos();
        clock = new ClockReading(database, before + (after - before) / 2);
        Optional<Duration> jumped = guard.note(database, time.wall(), before, after);
        jumped.ifPresent(jump -> tell(
                Event.Kind.PROBLEM,
                "the database's clock jumped by " + (jump.isNegative() ? "-" : "+")
                        + Durations.format(jump.abs()) + " against this machine's, to " + database
                        + " (or this machine was suspended); until it has gone steadily for a while, nothing is"
                        + " planned beyond this machine's wall clock, and no instance is taken for dead before it"
                        + " was seen silent for a whole lease"));
        return jumped;
    }

    /** {@return the database's clock as far as it is known and to be believed} */
    public Instant now() {
        return trusted(databaseTimeAt(time.nanos()));
    }

    /** {@return a time of the database's clock as far as it is to be believed} */
    public Instant trusted(Instant database) {
        return guard.trusted(database, time.wall(), time.nanos());
    }

    /** {@return by how much this machine's wall clock is ahead of the database's} */
    public Duration clockAhead() {
        return Duration.between(databaseTimeAt(time.nanos()), time.wall());
    }

    /** {@return up to when occurrences may be decided while the database's clock is in doubt} */
    public Optional<Instant> trustedLimit() {
        Instant wall = time.wall();
        return guard.isBeyond(databaseTimeAt(time.nanos()), wall, time.nanos()) ? Optional.of(wall) : Optional.empty();
    }

    /** {@return whether a session that lapsed by the database's clock may be taken for dead} */
    public boolean isSilent(SessionRow session, Instant now) {
        return guard.isSilent(session, now, time.nanos());
    }

    private Instant databaseTimeAt(long nanos) {
        ClockReading reading = clock;
        return reading.database().plusNanos(nanos - reading.nanos()).truncatedTo(ChronoUnit.MICROS);
    }

    /** {@return how long until an instant of the database's clock, zero if it is past} */
    public Duration until(Instant instant) {
        Duration left = Duration.between(now(), instant);
        return left.isNegative() ? Duration.ZERO : left;
    }

    /** {@return when its duties last turned} */
    public Turns turns() {
        return turns;
    }

    /** Notes that a duty finished a turn. */
    public void turned(Turns.Name duty) {
        turns.turned(duty, time.nanos(), liveSession().isPresent());
    }

    // Session.

    /** {@return the session, if the instance may still act on it} */
    public Optional<Session> liveSession() {
        return session()
                .filter(current -> time.nanos()
                                - (current.leaseEndNanos() - settings.margin().toNanos())
                        < 0);
    }

    public Optional<Session> session() {
        return Optional.ofNullable(session);
    }

    public void session(@Nullable Session current) {
        session = current;
    }

    /** Tells the runs, and the listener, that a session's lease ends; once for each lease, whoever notices it first. */
    public void leaseEnds(Session ending, String why) {
        if (!ending.equals(endTold.getAndSet(ending))) {
            tell(Event.Kind.LEASE_LOST, why);
            held().forEach(run -> workers().stop(run, StopReason.LEASE_LOST));
        }
    }

    /** {@return the id of the current session, if there is one} */
    public Optional<UUID> sessionId() {
        return session().map(Session::id);
    }

    /** Says that the instance takes no more work. */
    public void drain() {
        draining = true;
    }

    public boolean draining() {
        return draining;
    }

    /** Sets what is done when something has become ready that it may claim itself. */
    public void whenReady(Runnable action) {
        whenReady = action;
    }

    public void ready() {
        whenReady.run();
    }

    /** Sets what is done when someone else asks the instance to drain. */
    public void whenAskedToDrain(Runnable action) {
        whenAskedToDrain = action;
    }

    public void askedToDrain() {
        if (!draining) {
            draining = true;
            tell(Event.Kind.DRAINING, "asked to by someone else; takes no more work");
            whenAskedToDrain.run();
        }
    }

    // Runs.

    public void hold(LeasedRun run) {
        held.put(run.id(), run);
    }

    public void letGo(LeasedRun run) {
        held.remove(run.id(), run);
    }

    /** {@return the runs it holds} */
    public Collection<LeasedRun> held() {
        return List.copyOf(held.values());
    }

    public boolean holds(long run, long fence) {
        LeasedRun known = held.get(run);
        return known != null && known.row().lease().orElseThrow().fence() == fence;
    }

    /** Takes the end of an attempt from a worker. */
    public void completed(Completion completion) {
        completions.add(completion);
    }

    public List<Completion> takeCompletions(int limit) {
        return take(completions, limit);
    }

    private static <T> List<T> take(Queue<T> queue, int limit) {
        List<T> batch = new ArrayList<>();
        for (T next = queue.poll(); next != null; next = queue.poll()) {
            batch.add(next);
            if (batch.size() == limit) {
                break;
            }
        }
        return batch;
    }

    /** {@return how many ends wait to be reported} */
    public int unreported() {
        return completions.size();
    }

    /** {@return whether ends wait to be reported} */
    public boolean hasCompletions() {
        return !completions.isEmpty();
    }

    /** Notes whether somebody waits elsewhere for ends of runs. */
    public void awaitedElsewhere(boolean awaited) {
        awaitedElsewhere = awaited;
    }

    /** Calls those who wait elsewhere for ends of runs, if anybody does; to be called when ends have committed. */
    public void callAtEnds() {
        if (awaitedElsewhere) {
            try {
                store.callAtEnds();
            } catch (StoreException e) {
                LOG.debug(
                        "{}: those who wait for ends could not be called; they look by themselves",
                        settings.instance(),
                        e);
            }
        }
    }

    /** Takes runs whose end is on record and whose consequences are still to be drawn. */
    public void ended(Collection<Long> runs) {
        ended.addAll(runs);
    }

    public List<Long> takeEnded(int limit) {
        return take(ended, limit);
    }

    public boolean hasEnded() {
        return !ended.isEmpty();
    }

    /** {@return what the attempts that run here print} */
    public Printing printing() {
        return printing;
    }

    /** Keeps what a run says of its progress until it is written. */
    public void note(LeasedRun run, ProgressNote note) {
        notes.put(run.id(), Map.entry(run, note));
    }

    /** Takes what runs that it still holds said of their progress. */
    public Map<LeasedRun, ProgressNote> takeNotes() {
        Map<LeasedRun, ProgressNote> taken = new HashMap<>();
        for (long run : List.copyOf(notes.keySet())) {
            Map.Entry<LeasedRun, ProgressNote> entry = notes.remove(run);
            if (entry != null
                    && holds(run, entry.getKey().row().lease().orElseThrow().fence())) {
                taken.put(entry.getKey(), entry.getValue());
            }
        }
        return taken;
    }

    // Store.

    /** Carries out a whole step in one transaction, again from the beginning if others were in the way. */
    public <T> T transact(Function<Transaction, T> steps) {
        return repeated(StoreAnswer.Step.TRANSACTION, () -> store.transact(steps));
    }

    /** The same, on the connection that is kept for it: for what keeps the lease. */
    public <T> T transactReserved(Function<Transaction, T> steps) {
        return repeated(StoreAnswer.Step.RENEWAL, () -> store.transactReserved(steps));
    }

    /** Looks at what will be due. */
    public Outlook look(Store.Look look) {
        return timed(StoreAnswer.Step.LOOK, () -> store.outlook(look));
    }

    private <T> T timed(StoreAnswer.Step step, Supplier<T> question) {
        long asked = time.nanos();
        try {
            T answer = question.get();
            answered(step, asked, Optional.empty());
            return answer;
        } catch (StoreException e) {
            answered(step, asked, Optional.of(e.trouble()));
            throw e;
        }
    }

    private void answered(StoreAnswer.Step step, long asked, Optional<StoreException.Trouble> trouble) {
        listener.answered(new StoreAnswer(step, Duration.ofNanos(time.nanos() - asked), trouble));
    }

    private <T> T repeated(StoreAnswer.Step step, Supplier<T> transaction) {
        for (int repeat = 1; ; repeat++) {
            try {
                return timed(step, transaction);
            } catch (StoreException e) {
                if (e.trouble() != StoreException.Trouble.CONFLICT || repeat == MOST_REPEATS) {
                    throw e;
                }
                LOG.debug("{}: repeating a step that others were in the way of", settings.instance(), e);
            }
        }
    }

    /** {@return whether something is due before instances look again by themselves} */
    public boolean isSoon(Instant due) {
        return due.isBefore(now().plus(settings.poll()));
    }

    /** Calls sleeping instances; it is a courtesy, so trouble is only noted. */
    public void call() {
        try {
            store.wake();
        } catch (StoreException e) {
            LOG.debug("{}: sleeping instances could not be called", settings.instance(), e);
        }
    }

    /** {@return who waits for the ends of runs} */
    public RunWatch watch() {
        return watch;
    }

    // Telling.

    /** Tells of a problem that may well repeat many times a second: once, and again every ten seconds. */
    /** Tells of trouble; that the database is away is told once, by whoever finds it first, until it is back. */
    public void tellProblem(String what, Throwable why) {
        boolean isAway = why instanceof StoreException store && store.trouble() == StoreException.Trouble.UNREACHABLE;
        if (!isAway) {
            tellProblem(what, () -> what + ": " + why.getMessage());
        } else if (awaySince.compareAndSet(REACHED, time.nanos())
                && !tellProblem(AWAY, () -> what + ": " + why.getMessage())) {
            awaySince.set(REACHED);
        }
    }

    /** {@return for how long the database has been away} */
    public Optional<Duration> away() {
        long since = awaySince.get();
        return since == REACHED ? Optional.empty() : Optional.of(Duration.ofNanos(time.nanos() - since));
    }

    /** The database answers; if it had been away, that is told. */
    public void reached() {
        long since = awaySince.getAndSet(REACHED);
        if (since != REACHED) {
            Duration away = Duration.ofSeconds(
                    Math.max(1, Duration.ofNanos(time.nanos() - since).toSeconds()));
            tell(Event.Kind.RECOVERED, "the database can be reached again, after " + Durations.format(away));
        }
    }

    /** Tells of what the application's own listeners and checks do wrong. */
    public void report(String what, Throwable why) {
        tellProblem(what, () -> what + ": " + why);
    }

    /** Tells of what is wrong with the ground that this instance stands on. */
    public void tellConcern(String text) {
        tellProblem(text);
    }

    public void tellProblem(String what) {
        tellProblem(what, () -> what);
    }

    /** {@return whether it was told; what has been told lately is not} */
    private boolean tellProblem(String what, Supplier<String> text) {
        long now = time.nanos();
        Long before = problems.get(what);
        if (before == null || now - before >= PROBLEM_AGAIN.toNanos()) {
            if (problems.size() >= MOST_PROBLEMS) {
                problems.clear();
            }
            problems.put(what, now);
            tell(Event.Kind.PROBLEM, text.get());
            return true;
        }
        return false;
    }

    /** Tells that a run was left to others because this instance cannot do its work. */
    public void tellUnknown(Job job) {
        tellProblem(job.name() + " needs an instance that " + Work.inWords(job.needs()) + "; left to others");
    }

    /** Tells that something was left to newer instances, because its definition is not one this version reads. */
    public void tellUnreadable(String what) {
        tellProblem(what + " goes by a definition that a newer version of Brume wrote and this one cannot read; left to"
                + " instances of that version");
    }

    /** Notes the rules of notices that are in force. */
    public void noticeRules(NoticeRules inForce) {
        noticeRules = inForce;
    }

    /** {@return whether a success of a job is noted for those who are told} */
    public boolean isNotable(Job job) {
        return noticeRules.notesSuccess(job);
    }

    /** A success was committed that somebody is told of, or of what it ends. */
    public void wasNotable() {
        whenNotable.run();
    }

    /** Sets what is called when something was committed that may have to be told. */
    public void whenNotable(Runnable action) {
        whenNotable = action;
    }

    /** {@return whether anyone wants to be told of a kind} */
    public boolean wants(Event.Kind kind) {
        return listener.wants(kind);
    }

    public void tell(Event.Kind kind, String text) {
        tell(Event.of(kind, now(), settings.instance(), text));
    }

    public void tell(Event.Kind kind, JobName job, String text) {
        tell(kind, job, text, event -> event);
    }

    /** Tells of a job, with facts beside the text. */
    public void tell(Event.Kind kind, JobName job, String text, UnaryOperator<Event> facts) {
        tell(facts.apply(Event.of(kind, now(), settings.instance(), text).withJob(job)));
    }

    public void tell(Event.Kind kind, JobName job, long run, String text) {
        tell(kind, job, run, text, event -> event);
    }

    /** Tells of a run, with facts beside the text. */
    public void tell(Event.Kind kind, JobName job, long run, String text, UnaryOperator<Event> facts) {
        tell(facts.apply(
                Event.of(kind, now(), settings.instance(), text).withJob(job).withRun(run)));
    }

    private void tell(Event event) {
        if (NOTABLE.contains(event.kind()) && !noticeRules.isEmpty()) {
            whenNotable.run();
        }
        if (!wants(event.kind())) {
            return;
        }
        try {
            listener.saw(event);
        } catch (Exception | LinkageError | AssertionError | StackOverflowError e) {
            LOG.warn("{}: an engine listener threw at {}; ignored", settings.instance(), event.kind(), e);
        }
    }
}
