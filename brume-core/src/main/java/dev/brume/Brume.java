package dev.brume;

import dev.brume.history.FeedPage;
import dev.brume.history.FeedPosition;
import dev.brume.history.History;
import dev.brume.history.SessionRow;
import dev.brume.internal.define.Registrar;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.duty.Settings;
import dev.brume.internal.engine.Engine;
import dev.brume.internal.engine.NamedLeaseKeeper;
import dev.brume.internal.engine.SteppedEngine;
import dev.brume.internal.engine.Teller;
import dev.brume.internal.engine.WorkThreads;
import dev.brume.internal.event.EventLog;
import dev.brume.internal.event.Listeners;
import dev.brume.internal.feed.FeedReader;
import dev.brume.internal.order.AccessOrders;
import dev.brume.internal.order.ClusterOrders;
import dev.brume.internal.order.Edit;
import dev.brume.internal.order.Joined;
import dev.brume.internal.order.OnceOnly;
import dev.brume.internal.order.OneOffOrders;
import dev.brume.internal.order.Orderer;
import dev.brume.internal.session.NamedLeases;
import dev.brume.internal.telling.BuiltInSender;
import dev.brume.internal.text.Texts;
import dev.brume.internal.work.Around;
import dev.brume.notice.Receiver;
import dev.brume.notice.Sender;
import dev.brume.notice.Telling;
import dev.brume.notice.Watch;
import dev.brume.notice.Way;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.Durations;
import dev.brume.schedule.Moment;
import dev.brume.spi.CallerTransactions;
import dev.brume.spi.SteppedInstance;
import dev.brume.spi.Store;
import dev.brume.spi.TimeSource;
import dev.brume.spi.Traces;
import java.net.InetAddress;
import java.net.UnknownHostException;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.Executor;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * One instance of the engine on a store that any number of instances share.
 *
 * <p>It can define and look without being started. Closing it stops it, letting runs end for up to 30
 * seconds, and leaves the store to whoever opened it. Safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class Brume implements AutoCloseable {
    /** How long {@link #close()} lets runs go on unless it is set otherwise. */
    public static final Duration DRAIN_LIMIT = Duration.ofSeconds(30);

    private static final Logger LOG = LoggerFactory.getLogger(Brume.class);
    private static final Duration LAST_WORDS = Duration.ofSeconds(5);
    private static final Duration LAST_DEEDS = Duration.ofSeconds(10);

    private static final StackWalker WALKER = StackWalker.getInstance(StackWalker.Option.RETAIN_CLASS_REFERENCE);

    private final Store store;
    private final Instance instance;
    private final Registrar registrar;
    private final OneOffOrders orders;
    private final FeedReader feed;
    private final CallerTransactions callers;
    private final Duration drainLimit;
    private final boolean stopsWithTheProcess;
    private final CountDownLatch over = new CountDownLatch(1);
    private final Map<String, Handler> handlers = new ConcurrentHashMap<>();
    private final Map<String, PayloadType<?>> payloadTypes = new ConcurrentHashMap<>();
    private final Listeners listeners;
    private final Around around = new Around();
    private final WorkThreads threads;
    private final Optional<Instant> built;
    private final NamedLeaseKeeper leases;
    private final List<Sender> senders;
    private final Optional<Watch> watch;
    private final Map<String, Receiver> receivers = new ConcurrentHashMap<>();
    private @Nullable Teller vigil;
    private volatile @Nullable Engine engine;
    private boolean stopped;
    private volatile boolean ended;
    private @Nullable Thread hook;
    private volatile boolean endsWithProcess;
    private final Set<Thread> awaiting = ConcurrentHashMap.newKeySet();
    private boolean stoppedClean = true;

    private Brume(Builder builder) {
        store = builder.store;
        listeners = new Listeners(builder.first(), this::tagsOf);
        instance = new Instance(builder.settings(), store, builder.time, listeners);
        instance.handlers().addAll(builder.kinds);
        instance.traces(builder.traces);
        listeners.reportTo(instance::report);
        around.checks().reportTo(instance::report);
        leases = new NamedLeaseKeeper(new NamedLeases(instance));
        registrar = new Registrar(instance);
        orders = new OneOffOrders(instance);
        feed = new FeedReader(instance);
        threads = new WorkThreads(builder.virtualThreads, builder.executors);
        built = builder.built.or(() -> builder.caller.flatMap(BuildTime::of));
        callers = builder.callers;
        senders = Stream.concat(Stream.of(new BuiltInSender(receivers)), builder.senders.stream())
                .toList();
        watch = Optional.ofNullable(builder.watch);
        drainLimit = builder.drainLimit;
        stopsWithTheProcess = builder.stopsWithTheProcess;
        store.prepare();
    }

    /** Whoever sets up an instance: its archive may tell when the application was built. */
    private static Optional<Class<?>> caller(Stream<StackWalker.StackFrame> frames) {
        return frames.<Class<?>>map(StackWalker.StackFrame::getDeclaringClass)
                .filter(type -> type != Brume.class)
                .findFirst();
    }

    /** Begins to set up an instance. */
    public static Builder on(Store store) {
        return new Builder(Objects.requireNonNull(store, "store"), WALKER.walk(Brume::caller));
    }

    /**
     * Registers the handler that jobs name in their work.
     *
     * @param name as jobs name it
     * @param handler called from many threads at once
     * @throws IllegalArgumentException if it is not a name that jobs may have
     */
    public void handler(String name, Handler handler) {
        new Work.Registered(name);
        handlers.put(name, Objects.requireNonNull(handler, "handler"));
        instance.handlers().add(name);
    }

    /**
     * Registers the handler that jobs name in their work, and the types of payload it can read. Runs of jobs that state another
     * type are left to instances that know it.
     *
     * @param name as jobs name it
     * @param payloadTypes the names that {@link Job.Builder#payloadType} is given
     * @param handler called from many threads at once
     */
    public void handler(String name, Collection<String> payloadTypes, Handler handler) {
        handler(name, handler);
        payloadTypes.forEach(type -> instance.handlers().add(Job.needs(name, type)));
    }

    /**
     * Registers a handler that is given its payload as a value. Jobs that state the payload's type are run by instances whose
     * handler reads that type; jobs that state none are taken to hold it too.
     *
     * @param <T> what a payload is
     * @param name as jobs name it
     * @param type its name, and how a payload is read
     * @param handler called from many threads at once; not called for a payload that cannot be read, which fails for good
     */
    public <T> void handler(String name, PayloadType<T> type, TypedHandler<T> handler) {
        payloadTypes.put(Job.needs(name, type.name()), type);
        handler(name, List.of(type.name()), run -> {
            T payload;
            try {
                payload = type.read().apply(run.payload().orElse(""));
            } catch (RuntimeException e) {
                throw new UnreadablePayloadException(
                        "run " + run.id() + ": its payload cannot be read as " + type.name() + ": " + e.getMessage(),
                        e);
            }
            handler.run(run, payload);
        });
    }

    /**
     * {@return why a payload cannot be read as what a job states it to be; empty if it can, if the job states nothing, or if this instance has no
     * handler that reads that type, so that only an attempt will tell}
     *
     * @param job whose payload it is to be
     * @param payload a text; empty if there is none
     */
    public Optional<String> whyUnreadable(Job job, String payload) {
        PayloadType<?> type = payloadTypes.get(job.needs());
        if (type == null) {
            return Optional.empty();
        }
        try {
            type.read().apply(payload);
            return Optional.empty();
        } catch (RuntimeException e) {
            String why = e.getMessage() == null ? e.getClass().getSimpleName() : e.getMessage();
            return Optional.of("cannot be read as " + type.name() + ": " + why);
        }
    }

    /**
     * Registers a handler that answers: what it returns is kept as the run's result, for whoever ordered the run and for runs that follow it.
     *
     * @param name as jobs name it
     * @param handler called from many threads at once
     * @throws IllegalArgumentException if it is not a name that jobs may have
     * @see RunResult#value()
     */
    public void answering(String name, AnsweringHandler handler) {
        Objects.requireNonNull(handler, "handler");
        handler(name, run -> keep(run, handler.answer(run)));
    }

    /**
     * Registers a handler that is given its payload as a value and answers with one.
     *
     * @param <T> what a payload is
     * @param <R> what an answer is
     * @param name as jobs name it
     * @param payload how payloads are read
     * @param answer how answers are written
     * @param handler called from many threads at once
     * @throws IllegalArgumentException if it is not a name that jobs may have
     * @see RunResult#value(PayloadType)
     */
    public <T, R> void answering(
            String name, PayloadType<T> payload, PayloadType<R> answer, TypedAnsweringHandler<T, R> handler) {
        Objects.requireNonNull(answer, "answer");
        Objects.requireNonNull(handler, "handler");
        handler(name, payload, (run, value) -> {
            R given = handler.answer(run, value);
            keep(run, given == null ? null : answer.text(given));
        });
    }

    private static void keep(Run run, @Nullable String answer) {
        if (answer != null) {
            run.result(answer);
        }
    }

    // Listeners.

    /**
     * Adds a listener to what this instance does and notices; it hears of everything from now on.
     *
     * @param filter what it wants to hear of
     * @param listener called from a thread of its own, never from one that runs or renews; see {@link Listener}
     * @param name for threads and reports
     */
    public void listen(String name, EventFilter filter, Listener listener) {
        listeners.add(
                Objects.requireNonNull(name, "name"),
                Objects.requireNonNull(filter, "filter"),
                Objects.requireNonNull(listener, "listener"));
    }

    /**
     * Adds a check that is asked before this instance starts an attempt of certain jobs.
     *
     * @param check given a bounded time; one that throws or does not answer turns nothing down
     * @param name for reports, and for the words that a run is turned down with
     * @param jobs whose runs
     */
    public void beforeStart(String name, JobScope jobs, StartCheck check) {
        around.checks()
                .add(
                        Objects.requireNonNull(name, "name"),
                        Objects.requireNonNull(jobs, "jobs"),
                        Objects.requireNonNull(check, "check"));
    }

    /**
     * Puts an interceptor around the attempts of certain jobs; the first added is outermost.
     *
     * @param name for errors
     * @param jobs whose attempts
     * @param interceptor called on the thread that carries an attempt out, once the checks of {@link #beforeStart} have let it start
     */
    public void around(String name, JobScope jobs, Interceptor interceptor) {
        around.interceptors()
                .add(
                        Objects.requireNonNull(name, "name"),
                        Objects.requireNonNull(jobs, "jobs"),
                        Objects.requireNonNull(interceptor, "interceptor"));
    }

    /**
     * Adds a listener that is told on the engine's own threads, so that it must be quick; see {@link EngineListener}. It hears of everything from now
     * on.
     */
    public void listenAtOnce(EngineListener listener) {
        listeners.add(Objects.requireNonNull(listener, "listener"));
    }

    /** {@return how this instance fares; asks nobody, and takes microseconds} */
    public Vitals vitals() {
        Engine started = engine;
        Map<String, Duration> turns = new TreeMap<>();
        instance.turns()
                .since(instance.time().nanos())
                .forEach((duty, since) -> turns.put(duty.name().toLowerCase(Locale.ROOT), since));
        return new Vitals(
                instance.settings().instance(),
                state(started),
                instance.settings().lease(),
                instance.session()
                        .map(session -> Duration.ofNanos(
                                session.leaseEndNanos() - instance.time().nanos())),
                instance.clockAhead(),
                started == null ? idleLanes() : started.lanes(),
                instance.held().size(),
                instance.unreported(),
                turns,
                instance.away());
    }

    private Map<String, Vitals.Lane> idleLanes() {
        Map<String, Vitals.Lane> idle = new TreeMap<>();
        instance.settings().lanes().forEach((lane, workers) -> idle.put(lane, new Vitals.Lane(workers, 0)));
        return idle;
    }

    private Vitals.State state(@Nullable Engine started) {
        if (ended) {
            return Vitals.State.STOPPED;
        } else if (started == null) {
            return Vitals.State.IDLE;
        }
        return instance.draining() ? Vitals.State.DRAINING : Vitals.State.AT_WORK;
    }

    /** {@return how listeners and checks fare, in the order they were added} */
    public List<ListenerStatus> listeners() {
        return Stream.concat(listeners.status().stream(), around.checks().status().stream())
                .toList();
    }

    private Set<String> tagsOf(JobName job) {
        return store.history()
                .job(job)
                .map(view -> Set.copyOf(view.job().tags()))
                .orElse(Set.of());
    }

    // Notices.

    /**
     * Registers code that channels name, to be handed notices.
     *
     * @param name as channels have it under {@code code}
     * @param receiver called from threads of its own, several at once
     * @throws IllegalArgumentException if it is no name
     */
    public void receive(String name, Receiver receiver) {
        new Way.Code(name);
        receivers.put(name, Objects.requireNonNull(receiver, "receiver"));
    }

    /**
     * Puts channels and rules in force, in place of those that the same source has stated before.
     *
     * @param source where they come from, such as the application's name
     * @throws IllegalArgumentException if a rule tells a channel that there is not
     */
    public void tell(String source, Telling telling) {
        define(DefinitionSet.of(source, List.of()).withTelling(telling));
    }

    /**
     * Keeps vigil: tells what is to be told, and runs nothing. It needs no instance that lives.
     *
     * @throws IllegalStateException if it was started before, or keeps vigil already
     */
    public synchronized void keepVigil() {
        if (engine != null || stopped || vigil != null) {
            throw new IllegalStateException("instance '" + instance.settings().instance() + "' was started before");
        }
        vigil = new Teller(instance, senders, watch);
        vigil.start();
    }

    // Leases by name.

    /**
     * Takes a lease by name, without any job or engine: at most one instance has it at a time. It is renewed until it is
     * closed, so that code with its own timer may hold it for as long as it likes.
     *
     * @param name in the namespace {@code main}, in another as {@code namespace/name}, or the whole cluster's as {@code /name}
     * @param lease how long it lasts if this process dies, 1 s to 1 d
     * @param coolDown how long the name cannot be taken again once it was given back, from 0 s; so that a timer that goes off
     *     on every instance runs once even where clocks differ
     * @return empty if another has it, or its cool-down is not over
     */
    public Optional<NamedLease> takeLease(String name, Duration lease, Duration coolDown) {
        return leases.take(name, lease, coolDown);
    }

    /**
     * Takes a lease by name that may be taken again as soon as it was given back.
     *
     * @see #takeLease(String, Duration, Duration)
     */
    public Optional<NamedLease> takeLease(String name, Duration lease) {
        return takeLease(name, lease, Duration.ZERO);
    }

    // Definitions.

    /**
     * Defines a job whose work is Java code, and registers that code under the job's own name.
     *
     * @param job whose work need not be set
     */
    public Defined define(Job.Builder job, Handler handler) {
        Job built = job.handler(job.name().toString()).build();
        handler(built.name().toString(), handler);
        return define(built);
    }

    /**
     * Defines a job whose work is Java code that is given its payload as a value, and registers that code under the job's own name.
     *
     * @param <T> what a payload is
     * @param job whose work and payload's type need not be set
     * @param type how payloads are read
     */
    public <T> Defined define(Job.Builder job, PayloadType<T> type, TypedHandler<T> handler) {
        Job built = job.handler(job.name().toString()).payloadType(type.name()).build();
        handler(built.name().toString(), type, handler);
        return define(built);
    }

    /** Defines a job, or updates it in place; an unchanged definition writes nothing. */
    public Defined define(Job job) {
        return define(List.of(job), "api").get(0);
    }

    /** Defines a job if there is none of that name; one that is there stays as it is. */
    public Defined defineNew(Job job) {
        return define(DefinitionSet.of("api", List.of(job)).writing(DefinitionSet.Writes.NEW))
                .get(0);
    }

    /** Updates a job in place if there is one of that name; none is added. */
    public Defined redefine(Job job) {
        return define(DefinitionSet.of("api", List.of(job)).writing(DefinitionSet.Writes.KNOWN))
                .get(0);
    }

    /**
     * {@return a name that no job has, for one that belongs to a user rather than to the code} Names sort by the time when they were made, to the millisecond.
     *
     * @param namespace in which
     * @throws IllegalArgumentException if it is no name
     */
    public JobName newName(String namespace) {
        return new JobName(
                namespace,
                NewNames.at(instance.trusted(instance.store().history().now())));
    }

    /**
     * Defines jobs, or updates them in place, a thousand per transaction.
     *
     * @param source where they come from, such as a file's name
     */
    public List<Defined> define(Collection<Job> jobs, String source) {
        return define(DefinitionSet.of(source, jobs));
    }

    /**
     * Defines limits, calendars and jobs, or updates them in place. A calendar that changed is a new version of every job
     * that goes by it; a limit that was raised lets go whoever waits for it.
     *
     * @throws IllegalArgumentException if a job names a limit that is not defined
     */
    public List<Defined> define(DefinitionSet set) {
        return registrar.define(set, Edit.by(Orderer.itself(instance)).of(built));
    }

    /** Defines a calendar in the main namespace, or as {@code /name} one of the cluster, or updates it and every job that goes by it. */
    public void define(DayCalendar calendar) {
        define(DefinitionSet.of("api", List.of())
                .withCalendars(Map.of(CalendarName.in(JobName.MAIN, calendar.name()), calendar)));
    }

    /**
     * Drops a job: it owes nothing from now on, its name becomes free, its history stays. Runs that are
     * live already end as usual.
     *
     * @return whether there was such a job
     */
    public boolean drop(JobName key) {
        return registrar.drop(key, Edit.by(Orderer.itself(instance)));
    }

    /** {@return the orders of single runs, given by this instance} */
    public OneOffs oneOffs() {
        return new OneOffs(orders, instance.watch(), () -> Joined.of(callers));
    }

    /**
     * Asks the instances of a name to drain: they lease nothing more from now on, let their runs end, and leave.
     *
     * @return their sessions; empty if no instance of that name takes work
     */
    public List<SessionRow> drain(String instanceName) {
        return new ClusterOrders(instance).drain(instanceName, Edit.by(Orderer.itself(instance)));
    }

    /**
     * Says that the database was restored from a copy. Whatever ran when the copy was taken is refused from then on, even
     * where the copy would give out the same fences again. Call it before the first instance starts on it.
     *
     * @return the new epoch
     */
    public long databaseWasRestored() {
        return new ClusterOrders(instance).restored(Edit.by(Orderer.itself(instance)));
    }

    /**
     * {@return the orders that a person gives}
     *
     * @param who gives them
     * @param because why, for the record; empty if there is nothing to say
     */
    public Orders orders(String who, String because) {
        Orderer orderer =
                Orderer.at(instance, Objects.requireNonNull(who, "who"), Objects.requireNonNull(because, "because"));
        return new Orders(instance, orderer, OnceOnly.not(orderer), () -> Joined.of(callers));
    }

    /** {@return who is let in, by tokens and sign-ins} */
    public Access access() {
        return new Access(new AccessOrders(instance));
    }

    /** {@return the place in the feed behind all that was committed so far, to {@link #follow} from} */
    public FeedPosition followFromNow() {
        return feed.begin();
    }

    /**
     * Reads what was committed after a place in the feed, the same on every instance, in one order, and sees to it that there is something to
     * read: what is committed is fed while somebody asks every half minute at least, and kept for an hour.
     *
     * @param position behind which
     * @param limit how many transactions at most
     * @return what came since; nothing if nothing did
     */
    public FeedPage follow(FeedPosition position, int limit) {
        return feed.read(position, limit);
    }

    /** {@return what can be looked at} */
    public History history() {
        return store.history();
    }

    /**
     * Starts to run jobs.
     *
     * @throws IllegalStateException if it was started before
     */
    public synchronized void start() {
        if (engine != null || stopped) {
            throw new IllegalStateException("instance '" + instance.settings().instance() + "' was started before");
        }
        store.checkRoom();
        engine = new Engine(instance, store, handlers, around, threads, new Teller(instance, senders, watch));
        instance.whenAskedToDrain(() -> new Thread(this::close, "brume-drain").start());
        if (stopsWithTheProcess) {
            hook = new Thread(this::closeAndLetOthersEnd, "brume-stop");
            Runtime.getRuntime().addShutdownHook(hook);
        }
        store.concerns().forEach(instance::tellConcern);
        engine.start();
    }

    /**
     * Puts the instance into the caller's hands instead of starting it: it does something only when it is told to. For tests.
     *
     * @throws IllegalStateException if it was started before
     */
    public synchronized SteppedInstance stepped() {
        if (engine != null || stopped) {
            throw new IllegalStateException("instance '" + instance.settings().instance() + "' was started before");
        }
        stopped = true;
        return new SteppedEngine(instance, handlers, around, senders, watch);
    }

    /**
     * Waits until it has stopped, by whatever caused that: {@link #stop}, {@link #close}, or someone who asked it to drain.
     */
    public void awaitStopped() throws InterruptedException {
        Thread own = Thread.currentThread();
        awaiting.add(own);
        try {
            over.await();
        } finally {
            // Stays on the list where the process ends, so that what it does next still happens.
            if (!endsWithProcess) {
                awaiting.remove(own);
            }
        }
    }

    /** A thread that waits in awaitStopped may have something left to do, so the process does not end before it. */
    private void closeAndLetOthersEnd() {
        endsWithProcess = true;
        close();
        long until = System.nanoTime() + LAST_DEEDS.toNanos();
        try {
            for (Thread thread : awaiting) {
                thread.join(Math.max(1, TimeUnit.NANOSECONDS.toMillis(until - System.nanoTime())));
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    /**
     * Stops, letting runs go on for at most so long; what remains is cut short and handed back. Does nothing more if it was
     * stopped before; one that was never started cannot be started any more. If the caller is interrupted, the session is
     * renewed no more, and it can be called again.
     *
     * @param limit from 0s
     * @return whether all runs had ended by then
     */
    public synchronized boolean stop(Duration limit) throws InterruptedException {
        if (ended) {
            return stoppedClean;
        }
        stopped = true;
        if (engine != null) {
            stoppedClean = engine.stop(limit);
        }
        if (vigil != null) {
            vigil.stop(limit);
        }
        ended = true;
        removeHook();
        try {
            closeHelpers(limit);
        } finally {
            over.countDown();
        }
        return stoppedClean;
    }

    private void removeHook() {
        if (hook != null && !endsWithProcess) {
            try {
                Runtime.getRuntime().removeShutdownHook(hook);
            } catch (IllegalStateException endsAlready) {
                LOG.debug("the process ends already", endsAlready);
            }
        }
    }

    private void closeHelpers(Duration limit) throws InterruptedException {
        try {
            leases.close();
        } finally {
            instance.watch().stop();
            around.checks().close();
            closeListeners(limit);
        }
    }

    private void closeListeners(Duration limit) throws InterruptedException {
        listeners.close(limit.compareTo(LAST_WORDS) < 0 ? limit : LAST_WORDS);
    }

    /**
     * Stops, letting runs go on for the drain limit; gives leases by name back. A caller that is interrupted stays
     * interrupted, and may call it again.
     */
    @Override
    public void close() {
        try {
            stop(drainLimit);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    /** Sets up an instance. Confined to one thread. */
    public static final class Builder {
        private static final int WORKERS = 16;
        private static final int MOST_LABELS = 16;
        private static final int LONGEST_USER = 100;

        private final Store store;
        private final Map<String, Integer> lanes = new LinkedHashMap<>();
        private final Optional<Class<?>> caller;
        private Optional<Instant> built = Optional.empty();
        private final Map<String, Executor> executors = new LinkedHashMap<>();
        private boolean virtualThreads;
        private @Nullable String name;
        private @Nullable String user;
        private final Set<String> kinds = new HashSet<>();
        private Duration lease = Settings.LEASE;
        private Duration poll = Settings.POLL;
        private int batch = Settings.BATCH;
        private EngineListener listener = NOBODY;
        private boolean logs = true;
        private final Set<String> labels = new TreeSet<>();
        private Duration drainLimit = DRAIN_LIMIT;
        private boolean stopsWithTheProcess;
        private TimeSource time = TimeSource.system();
        private Traces traces = Traces.NONE;
        private CallerTransactions callers = CallerTransactions.NONE;
        private final List<Sender> senders = new ArrayList<>();
        private @Nullable Watch watch;

        private static final EngineListener NOBODY = new EngineListener() {
            @Override
            public boolean wants(Event.Kind kind) {
                return false;
            }

            @Override
            public void saw(Event event) {
                // Nobody asked to be told.
            }
        };

        private Builder(Store store, Optional<Class<?>> caller) {
            this.store = store;
            this.caller = caller;
        }

        private EngineListener first() {
            return logs ? new EventLog(listener, time::nanos) : listener;
        }

        /**
         * Takes settings as texts: those of the instance; a store takes its own.
         *
         * @throws IllegalArgumentException naming the key whose value is wrong, and why
         */
        public Builder configure(Configuration settings) {
            settings.read("instance", this::instance);
            settings.read("user", this::user);
            settings.read("workers", text -> workers(Configuration.number(text)));
            settings.read("lanes", text -> Configuration.list(text).forEach(this::lane));
            settings.read("labels", text -> Configuration.list(text).forEach(this::label));
            settings.read("takes", text -> Configuration.list(text).forEach(this::takes));
            settings.read("lease", text -> lease(Configuration.duration(text)));
            settings.read("poll", text -> poll(Configuration.duration(text)));
            settings.read("drain-limit", text -> drainLimit(Configuration.duration(text)));
            settings.read("batch", text -> batch(Configuration.number(text)));
            settings.read("log", text -> logs = Configuration.flag(text));
            settings.read("built-at", text -> builtAt(Configuration.instant(text)));
            settings.read("virtual-threads", text -> virtualThreads = Configuration.flag(text));
            settings.read("stop-with-process", text -> stopsWithTheProcess = Configuration.flag(text));
            return this;
        }

        private void lane(String text) {
            String[] parts = text.split("=", 2);
            if (parts.length < 2) {
                throw new IllegalArgumentException("'" + text + "' is not a lane with its workers (expected LANE=N)");
            }
            lane(parts[0].strip(), Configuration.number(parts[1].strip()));
        }

        private void takes(String kind) {
            switch (kind) {
                case "programs" -> takesPrograms();
                case "requests" -> takesRequests();
                default -> throw new IllegalArgumentException("'" + kind + "' is neither programs nor requests");
            }
        }

        /** Names the instance; host and process id unless given. */
        public Builder instance(String instance) {
            if (!JobName.isName(instance)) {
                throw new IllegalArgumentException(
                        "instance '" + instance + "' is not a name (expected " + JobName.RULE + ")");
            }
            name = instance;
            return this;
        }

        /**
         * Serves the lane {@value Job#MAIN_LANE} with so many workers; 16 unless given.
         *
         * @param count 1 to 10000
         * @throws IllegalArgumentException if it is outside that range
         */
        public Builder workers(int count) {
            return lane(Job.MAIN_LANE, count);
        }

        /**
         * Serves a lane with so many workers. Serving any lane replaces the default.
         *
         * @param lane as jobs name it
         * @param workers how many attempts of it at once, 1 to 10000
         * @throws IllegalArgumentException if that is outside its range
         */
        public Builder lane(String lane, int workers) {
            if (workers < 1 || workers > 10_000) {
                throw new IllegalArgumentException("lane " + lane + ": " + workers + " workers is outside 1 to 10000");
            }
            lanes.put(lane, workers);
            return this;
        }

        /**
         * Serves a lane with so many workers, whose work an executor of the application's carries out.
         *
         * @param lane as jobs name it
         * @param workers how many attempts of it at once, 1 to 10000; the executor should have as many threads, since a run counts as begun when it
         *     is handed over
         * @param executor with threads of its own; the application closes it, after this instance
         * @throws IllegalArgumentException if the number is outside its range
         */
        public Builder lane(String lane, int workers, Executor executor) {
            executors.put(lane, Objects.requireNonNull(executor, "executor"));
            return lane(lane, workers);
        }

        /**
         * Carries work out on virtual threads where the runtime has them, from Java 21 on, and on platform threads elsewhere. How many attempts go
         * on at once stays what the lanes say.
         */
        public Builder virtualThreads() {
            virtualThreads = true;
            return this;
        }

        /** Lets it carry a label, which jobs may require. */
        public Builder label(String label) {
            if (!JobName.isName(label)) {
                throw new IllegalArgumentException(
                        "label '" + label + "' is not a name (expected " + JobName.RULE + ")");
            }
            if (labels.size() == MOST_LABELS && !labels.contains(label)) {
                throw new IllegalArgumentException("label: more than " + MOST_LABELS + " labels of one instance");
            }
            labels.add(label);
            return this;
        }

        /**
         * Sets how long the session lives without being renewed: after a crash, runs go on elsewhere then.
         *
         * @param duration from 2s to 3650d, inclusive; 15s unless it is set. It is renewed every third of it.
         * @throws IllegalArgumentException if it is outside that range
         */
        public Builder lease(Duration duration) {
            lease = Settings.checkedLease(duration);
            return this;
        }

        /**
         * Sets how often it looks for what it was not told of.
         *
         * @param interval from 50ms to 3650d, inclusive; 1s unless it is set
         * @throws IllegalArgumentException if it is outside that range
         */
        public Builder poll(Duration interval) {
            poll = Settings.checkedPoll(interval);
            return this;
        }

        /**
         * Sets how long runs may go on when it is closed, or asked by someone else to drain.
         *
         * @param limit from 0s to 36525d; 30s unless it is set
         * @throws IllegalArgumentException if it is outside that range
         */
        public Builder drainLimit(Duration limit) {
            drainLimit = Durations.checked("drainLimit", limit, Duration.ZERO, Durations.LONGEST);
            return this;
        }

        /**
         * Makes it stop in good order when the process is told to end, before the process does. The process waits up to 10 s for
         * threads that were in {@link #awaitStopped()} to end. Leave it out where the application closes it itself.
         */
        public Builder stopWithTheProcess() {
            stopsWithTheProcess = true;
            return this;
        }

        /**
         * Takes jobs whose work is a program, too. Unless it is said, it does not: whoever may write to the tables decides which programs run, as
         * the user that this process runs as. What is not taken is left to instances that do.
         */
        public Builder takesPrograms() {
            kinds.add(Work.PROGRAMS);
            return this;
        }

        /** Takes jobs whose work is an HTTP request, too; unless it is said, it does not. */
        public Builder takesRequests() {
            kinds.add(Work.REQUESTS);
            return this;
        }

        /**
         * Says when the application was built, so that of two builds that define the same job the later one holds, in whatever order they start. Unless
         * it is set, it is read from {@code Build-Time} in the manifest of the archive that the class comes from which calls {@link Brume#on}, written
         * as in {@code 2026-11-30T08:15:00Z}; without that, whoever defines last holds.
         *
         * @param instant of the build
         * @see Orders#accept
         */
        public Builder builtAt(Instant instant) {
            built = Optional.of(Moment.checked("builtAt", instant).truncatedTo(ChronoUnit.MICROS));
            return this;
        }

        /** Sets the clocks it goes by, for tests; the machine's unless given. */
        public Builder time(TimeSource clocks) {
            time = Objects.requireNonNull(clocks, "clocks");
            return this;
        }

        /**
         * Sets how many rows one transaction handles.
         *
         * @param rows from 1 to 100000; 500 unless it is set
         * @throws IllegalArgumentException if it is outside that range
         */
        public Builder batch(int rows) {
            batch = Settings.checkedBatch(rows);
            return this;
        }

        /**
         * Writes nothing about jobs and instances to the log. Otherwise joining and leaving go there as information, and failures, missed occurrences,
         * takeovers, lost leases and problems as warnings, under the name {@code dev.brume.events}; what comes again and again is counted.
         */
        public Builder withoutLog() {
            logs = false;
            return this;
        }

        /**
         * Lets orders of one-offs join the transaction that their caller is in by what a framework knows, unless they are given a connection.
         *
         * @see OneOffs#within
         */
        public Builder joining(CallerTransactions transactions) {
            callers = Objects.requireNonNull(transactions, "transactions");
            return this;
        }

        /**
         * Adds a way of sending notices; those to the log and to the application's own code need none. What this process cannot send is left to
         * others that can. It is closed with the instance.
         */
        public Builder sending(Sender sender) {
            senders.add(Objects.requireNonNull(sender, "sender"));
            return this;
        }

        /** Sets what looks for what does not happen by itself, such as silence; of all processes that have it one looks at a time. */
        public Builder watching(Watch looks) {
            watch = Objects.requireNonNull(looks, "looks");
            return this;
        }

        /** Sets what carries traces along with runs; nothing is traced unless it is given. */
        public Builder traces(Traces carrier) {
            traces = Objects.requireNonNull(carrier, "carrier");
            return this;
        }

        /** Sets who is told what the instance does. */
        public Builder engineListener(EngineListener who) {
            listener = Objects.requireNonNull(who, "who");
            return this;
        }

        /**
         * Creates the instance and brings the store's schema to this version.
         *
         * @throws dev.brume.StoreException if the store cannot be reached or written
         */
        public Brume build() {
            return new Brume(this);
        }

        /** Says which user of the system it works for; stands before the host's name on record, as in {@code mara@quay-4}. At most 100 characters. */
        public Builder user(String name) {
            user = Texts.line("user", name, LONGEST_USER);
            return this;
        }

        private Settings settings() {
            if (lanes.isEmpty()) {
                lanes.put(Job.MAIN_LANE, WORKERS);
            }
            String host = hostName();
            long pid = ProcessHandle.current().pid();
            String own = name == null ? host.replaceAll("[^A-Za-z0-9._-]", "-") + "-" + pid : name;
            String where = user == null ? host : user + "@" + host;
            return new Settings(own, where, pid, lanes, labels, lease, poll, batch, Settings.ownTzdata());
        }

        private static String hostName() {
            try {
                return InetAddress.getLocalHost().getHostName();
            } catch (UnknownHostException e) {
                return "unknown-host";
            }
        }
    }
}
