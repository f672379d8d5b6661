package dev.brume;

import dev.brume.duties.Instance;
import dev.brume.duties.Registrar;
import dev.brume.duties.Settings;
import dev.brume.engine.Engine;
import dev.brume.port.History;
import dev.brume.port.Store;
import dev.brume.port.TimeSource;
import dev.brume.schedule.DayCalendar;
import java.net.InetAddress;
import java.net.UnknownHostException;
import java.time.Duration;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.concurrent.ConcurrentHashMap;

/**
 * One instance of the engine on a store that any number of instances share.
 *
 * <p>It can define and look without being started. Closing it stops it, letting runs end for up to 30
 * seconds, and leaves the store to whoever opened it. Safe for use by many threads.
 */
public final class Brume implements AutoCloseable {
    /** How long {@link #close()} lets runs go on. */
    public static final Duration DRAIN_LIMIT = Duration.ofSeconds(30);

    private final Store store;
    private final Instance instance;
    private final Registrar registrar;
    private final Map<String, Handler> handlers = new ConcurrentHashMap<>();
    private Engine engine;
    private boolean stopped;

    private Brume(Builder builder) {
        store = builder.store;
        instance = new Instance(builder.settings(), store, TimeSource.system(), builder.watcher);
        registrar = new Registrar(instance);
        store.prepare();
    }

    /** Begins to set up an instance. */
    public static Builder on(Store store) {
        return new Builder(Objects.requireNonNull(store, "store"));
    }

    /** Registers the handler that jobs name in their work. */
    public void handler(String name, Handler handler) {
        handlers.put(name, Objects.requireNonNull(handler, "handler"));
        instance.handlers().add(name);
    }

    /**
     * Defines a job whose work is Java code, and registers that code under the job's own name.
     *
     * @param job whose work need not be set
     */
    public Defined define(Job.Builder job, Handler handler) {
        Job built = job.handler(job.key().toString()).build();
        handler(built.key().toString(), handler);
        return define(built);
    }

    /** Defines a job, or updates it in place; an unchanged definition writes nothing. */
    public Defined define(Job job) {
        return define(List.of(job), "api").get(0);
    }

    /**
     * Defines jobs, or updates them in place, a thousand per transaction.
     *
     * @param source where they come from, such as a file's name
     */
    public List<Defined> define(Collection<Job> jobs, String source) {
        return define(jobs, Map.of(), source);
    }

    /**
     * Defines calendars and jobs, or updates them in place. A calendar that changed is a new version of every job that
     * goes by it.
     *
     * @param calendars by name; a job's schedules refer to those of its own namespace
     * @param source where they come from, such as a file's name
     */
    public List<Defined> define(Collection<Job> jobs, Map<CalendarKey, DayCalendar> calendars, String source) {
        return registrar.define(jobs, calendars, source, instance.settings().instance());
    }

    /** Defines a calendar in the default namespace, or updates it and every job that goes by it. */
    public void define(DayCalendar calendar) {
        define(List.of(), Map.of(new CalendarKey(JobKey.MAIN, calendar.name()), calendar), "api");
    }

    /**
     * Drops a job: it owes nothing from now on, its name becomes free, its history stays. Runs that are
     * live already end as usual.
     *
     * @return whether there was such a job
     */
    public boolean drop(JobKey key) {
        return registrar.drop(key, instance.settings().instance());
    }

    /** Returns what can be looked at. */
    public History history() {
        return store.history();
    }

    /**
     * Starts to run jobs.
     *
     * @throws IllegalStateException if it was started before
     */
    public synchronized void start() {
        if (engine != null) {
            throw new IllegalStateException("instance '" + instance.settings().instance() + "' was started before");
        }
        engine = new Engine(instance, handlers);
        engine.start();
    }

    /**
     * Stops, letting runs go on for at most so long; what remains is cut short and handed back. Does
     * nothing if it was stopped before or never started.
     *
     * @return whether all runs had ended by then
     */
    public synchronized boolean stop(Duration limit) throws InterruptedException {
        if (engine == null || stopped) {
            return true;
        }
        stopped = true;
        return engine.stop(limit);
    }

    @Override
    public void close() {
        try {
            stop(DRAIN_LIMIT);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    /** Sets up an instance. Confined to one thread. */
    public static final class Builder {
        private static final int WORKERS = 16;

        private final Store store;
        private final Map<String, Integer> lanes = new LinkedHashMap<>();
        private String name;
        private Duration lease = Settings.LEASE;
        private Duration poll = Settings.POLL;
        private int batch = Settings.BATCH;
        private Watcher watcher = event -> {};

        private Builder(Store store) {
            this.store = store;
        }

        /** Names the instance; host and process id unless given. */
        public Builder instance(String instance) {
            if (!JobKey.isName(instance)) {
                throw new IllegalArgumentException(
                        "instance '" + instance + "' is not a name (expected " + JobKey.RULE + ")");
            }
            name = instance;
            return this;
        }

        /** Serves the lane {@value Job#MAIN_LANE} with so many workers; 16 unless given. */
        public Builder workers(int count) {
            return lane(Job.MAIN_LANE, count);
        }

        /** Serves a lane with so many workers. Serving any lane replaces the default. */
        public Builder lane(String lane, int workers) {
            if (workers < 1 || workers > 10_000) {
                throw new IllegalArgumentException("lane " + lane + ": " + workers + " workers is outside 1 to 10000");
            }
            lanes.put(lane, workers);
            return this;
        }

        /** Sets how long the session lives without being renewed: after a crash, runs go on elsewhere then. */
        public Builder lease(Duration duration) {
            lease = duration;
            return this;
        }

        /** Sets how often it looks for what it was not told of. */
        public Builder poll(Duration interval) {
            poll = interval;
            return this;
        }

        /** Sets how many rows one transaction handles. */
        public Builder batch(int rows) {
            batch = rows;
            return this;
        }

        /** Sets who is told what the instance does. */
        public Builder watcher(Watcher who) {
            watcher = Objects.requireNonNull(who, "who");
            return this;
        }

        /**
         * Creates the instance and brings the store's schema to this version.
         *
         * @throws dev.brume.port.StoreException if the store cannot be reached or written
         */
        public Brume build() {
            return new Brume(this);
        }

        private Settings settings() {
            if (lanes.isEmpty()) {
                lanes.put(Job.MAIN_LANE, WORKERS);
            }
            String host = hostName();
            long pid = ProcessHandle.current().pid();
            String own = name == null ? host.replaceAll("[^A-Za-z0-9._-]", "-") + "-" + pid : name;
            return new Settings(own, host, pid, lanes, lease, poll, batch);
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
