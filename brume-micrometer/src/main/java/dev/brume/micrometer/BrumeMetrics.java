package dev.brume.micrometer;

import dev.brume.Brume;
import dev.brume.EngineListener;
import dev.brume.Event;
import dev.brume.Interceptor;
import dev.brume.JobName;
import dev.brume.JobScope;
import dev.brume.ListenerStatus;
import dev.brume.Run;
import dev.brume.RunState;
import dev.brume.StoreAnswer;
import dev.brume.StoreException;
import dev.brume.Vitals;
import dev.brume.history.Backlog;
import io.micrometer.core.instrument.Counter;
import io.micrometer.core.instrument.FunctionCounter;
import io.micrometer.core.instrument.Gauge;
import io.micrometer.core.instrument.MeterRegistry;
import io.micrometer.core.instrument.Tags;
import io.micrometer.core.instrument.Timer;
import io.micrometer.core.instrument.binder.MeterBinder;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.EnumMap;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentMap;
import java.util.function.Function;
import java.util.function.ToDoubleFunction;

/**
 * The metrics of one instance, and of the backlog that all instances share.
 *
 * <p>Their names follow OpenMetrics: seconds, and {@code _total} on what is counted. What one instance counts is its own, so that sums over instances
 * count each thing once; {@code brume.backlog.*} and {@code brume.instances} are the whole cluster's, the same wherever they are asked for. At most so
 * many jobs have a label of their own, by how busy they are; all others count under {@code other}. Bind it before the instance starts, or it misses
 * what comes before. Safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class BrumeMetrics implements MeterBinder, AutoCloseable {
    /** How many jobs have a label of their own unless it is set otherwise. */
    public static final int MOST_JOBS = 200;

    private static final Duration[] ANSWERS = {
        Duration.ofMillis(1),
        Duration.ofMillis(5),
        Duration.ofMillis(20),
        Duration.ofMillis(100),
        Duration.ofMillis(500),
        Duration.ofSeconds(2),
        Duration.ofSeconds(10)
    };

    private final Brume brume;
    private final int mostJobs;
    private final FreshBacklog backlog;

    /**
     * Creates the metrics of an instance.
     *
     * @param mostJobs how many jobs have a label of their own, from 0
     * @throws IllegalArgumentException if it is below 0
     */
    public BrumeMetrics(Brume brume, int mostJobs) {
        if (mostJobs < 0) {
            throw new IllegalArgumentException("mostJobs: " + mostJobs + " is below 0");
        }
        this.brume = Objects.requireNonNull(brume, "brume");
        this.mostJobs = mostJobs;
        this.backlog = new FreshBacklog(brume.history());
    }

    /** Creates the metrics of an instance, with {@value #MOST_JOBS} jobs by name. */
    public BrumeMetrics(Brume brume) {
        this(brume, MOST_JOBS);
    }

    /** {@return rules to be alerted by, in the form that Prometheus reads (YAML), each with the sentence that it stands for} */
    public static String alertRules() {
        try (InputStream stream =
                Objects.requireNonNull(BrumeMetrics.class.getResourceAsStream("alerts.yaml"), "the rules")) {
            return new String(stream.readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    @Override
    public void bindTo(MeterRegistry registry) {
        Told told = new Told(registry);
        brume.listenAtOnce(told);
        brume.around("metrics", JobScope.ALL, told);
        vitals(registry);
        backlog(registry);
        listeners(registry);
    }

    /** What the instance knows of itself. */
    private void vitals(MeterRegistry registry) {
        instance(registry, "brume.runs.held", "Runs leased to this instance.", Vitals::held);
        instance(registry, "brume.ends.unreported", "Ends of attempts still to be written.", Vitals::unreported);
        seconds(
                registry,
                "brume.lease.left",
                "For how long others count on this instance, unless it renews.",
                Tags.empty(),
                Vitals::leaseLeft);
        seconds(
                registry,
                "brume.clock.ahead",
                "By how much this machine's wall clock is ahead of the database's.",
                Tags.empty(),
                now -> Optional.of(now.clockAhead()));
        seconds(
                registry,
                "brume.database.away",
                "For how long the database has not answered; 0 while it does.",
                Tags.empty(),
                now -> now.away().or(() -> Optional.of(Duration.ZERO)));
        for (String duty : Vitals.DUTIES) {
            seconds(
                    registry,
                    "brume.duty.idle",
                    "How long ago a duty last finished a turn.",
                    Tags.of("duty", duty),
                    now -> Optional.ofNullable(now.sinceTurn().get(duty)));
        }
        brume.vitals().lanes().keySet().forEach(lane -> {
            lane(registry, "brume.workers", "Workers of a lane.", lane, Vitals.Lane::workers);
            lane(registry, "brume.workers.busy", "Workers that carry out an attempt.", lane, Vitals.Lane::busy);
            lane(registry, "brume.workers.free", "Workers that could begin one.", lane, Vitals.Lane::free);
        });
    }

    private void instance(MeterRegistry registry, String name, String meaning, ToDoubleFunction<Vitals> value) {
        Gauge.builder(name, brume, own -> value.applyAsDouble(own.vitals()))
                .description(meaning)
                .strongReference(true)
                .register(registry);
    }

    private void lane(
            MeterRegistry registry, String name, String meaning, String lane, ToDoubleFunction<Vitals.Lane> value) {
        Gauge.builder(name, brume, own -> {
                    Vitals.Lane known = own.vitals().lanes().get(lane);
                    return known == null ? Double.NaN : value.applyAsDouble(known);
                })
                .description(meaning)
                .tag("lane", lane)
                .strongReference(true)
                .register(registry);
    }

    private void seconds(
            MeterRegistry registry,
            String name,
            String meaning,
            Tags tags,
            Function<Vitals, Optional<Duration>> value) {
        Gauge.builder(
                        name,
                        brume,
                        own -> value.apply(own.vitals())
                                .map(BrumeMetrics::seconds)
                                .orElse(Double.NaN))
                .description(meaning)
                .baseUnit("seconds")
                .tags(tags)
                .strongReference(true)
                .register(registry);
    }

    private static double seconds(Duration time) {
        return time.toNanos() / 1e9;
    }

    /** What all instances owe together. */
    private void backlog(MeterRegistry registry) {
        shared(registry, "brume.instances", "Instances that live.", Backlog::instances);
        shared(
                registry,
                "brume.backlog.unplanned",
                "Jobs and one-offs that are due and of which no run was made yet.",
                Backlog::unplanned);
        shared(
                registry,
                "brume.backlog.owed",
                "Occurrences and orders that are due and have not begun.",
                Backlog::owed);
        Gauge.builder(
                        "brume.backlog.oldest",
                        backlog,
                        all -> all.get()
                                .map(Backlog::oldest)
                                .map(BrumeMetrics::seconds)
                                .orElse(Double.NaN))
                .description("How long the oldest of what is due and has not begun has been due.")
                .baseUnit("seconds")
                .strongReference(true)
                .register(registry);
        backlog.whenLaneIsNew(lane -> {
            for (RunState state : RunState.values()) {
                Gauge.builder(
                                "brume.backlog.runs",
                                backlog,
                                all -> all.get()
                                        .map(now -> (double) now.runs(lane, state))
                                        .orElse(Double.NaN))
                        .description("Runs that have not ended, by lane and state.")
                        .tags(Tags.of("lane", lane, "state", state.name()))
                        .strongReference(true)
                        .register(registry);
            }
        });
    }

    private void shared(MeterRegistry registry, String name, String meaning, ToDoubleFunction<Backlog> value) {
        Gauge.builder(name, backlog, all -> all.get().map(value::applyAsDouble).orElse(Double.NaN))
                .description(meaning)
                .strongReference(true)
                .register(registry);
    }

    /** Those that were added before this. */
    private void listeners(MeterRegistry registry) {
        for (ListenerStatus listener : brume.listeners()) {
            String name = listener.name();
            Gauge.builder("brume.listener.waiting", brume, own -> status(own, name, ListenerStatus::waiting))
                    .description("Events that wait for a listener.")
                    .tag("listener", name)
                    .strongReference(true)
                    .register(registry);
            listener(
                    registry,
                    "brume.listener.passed.over",
                    "Events that a listener was too slow for.",
                    name,
                    ListenerStatus::passedOver);
            listener(
                    registry,
                    "brume.listener.failed",
                    "Events at which a listener threw.",
                    name,
                    ListenerStatus::failed);
        }
    }

    private void listener(
            MeterRegistry registry,
            String metric,
            String meaning,
            String name,
            ToDoubleFunction<ListenerStatus> value) {
        FunctionCounter.builder(metric, brume, own -> status(own, name, value))
                .description(meaning)
                .tag("listener", name)
                .register(registry);
    }

    private static double status(Brume brume, String name, ToDoubleFunction<ListenerStatus> value) {
        return brume.listeners().stream()
                .filter(each -> each.name().equals(name))
                .mapToDouble(value)
                .sum();
    }

    @Override
    public void close() {
        backlog.close();
    }

    /** What happens as runs go on. */
    private final class Told implements EngineListener, Interceptor {
        private final MeterRegistry registry;
        private final ConcurrentMap<JobName, JobMeters> jobs = new ConcurrentHashMap<>();
        private final JobMeters others;
        private final JobLabels labels = new JobLabels(mostJobs, System::nanoTime, this::drop);
        private final Map<StoreAnswer.Step, Timer> answers = new EnumMap<>(StoreAnswer.Step.class);
        private final Counter leasesLost;
        private final Counter refused;
        private final Counter problems;

        Told(MeterRegistry registry) {
            this.registry = registry;
            others = new JobMeters(registry, JobLabels.OTHER);
            leasesLost = counter("brume.leases.lost", "How often this instance may have lost its lease.");
            refused = counter("brume.ends.refused", "Ends that came too late, after others had taken over.");
            problems = counter("brume.problems", "Things that need a person; the log says which.");
            Gauge.builder("brume.jobs.labelled", labels, JobLabels::size)
                    .description("Jobs that have a label of their own; all others count under other.")
                    .strongReference(true)
                    .register(registry);
            for (StoreAnswer.Step step : StoreAnswer.Step.values()) {
                answers.put(
                        step,
                        Timer.builder("brume.database.duration")
                                .description("How long the database took for the instance's own steps.")
                                .tag("step", step.name())
                                .serviceLevelObjectives(ANSWERS)
                                .register(registry));
            }
            for (StoreException.Trouble trouble : StoreException.Trouble.values()) {
                errors(trouble);
            }
        }

        private Counter counter(String name, String meaning) {
            return Counter.builder(name).description(meaning).register(registry);
        }

        private Counter errors(StoreException.Trouble trouble) {
            return Counter.builder("brume.database.errors")
                    .description(
                            "Steps of the instance that the database did not carry out; CONFLICT is tried again and harmless.")
                    .tag("trouble", trouble.name())
                    .register(registry);
        }

        /** The series of a job that has lost its label end; what it does from now on counts under the others. */
        private void drop(JobName job) {
            Optional.ofNullable(jobs.remove(job)).ifPresent(JobMeters::remove);
        }

        private JobMeters of(JobName job) {
            return labels.use(job)
                    ? jobs.computeIfAbsent(job, name -> new JobMeters(registry, name.toString()))
                    : others;
        }

        @Override
        public void saw(Event event) {
            switch (event.kind()) {
                case LEASE_LOST -> leasesLost.increment();
                case REFUSED -> refused.increment();
                case PROBLEM -> problems.increment();
                default -> event.job().ifPresent(job -> saw(event, job));
            }
        }

        private void saw(Event event, JobName job) {
            switch (event.kind()) {
                case STARTED -> of(job).count("brume.attempts.begun", "Attempts that began.", 1);
                case BACKING_OFF ->
                    of(job).count("brume.attempts.failed", "Attempts that failed and are followed by another.", 1);
                case MISSED ->
                    of(job).count("brume.occurrences.missed", "Occurrences that were missed.", event.count());
                case TAKEN_OVER ->
                    of(job).count("brume.runs.taken.over", "Runs of instances that died, which this one gave on.", 1);
                case SUCCEEDED, FAILED, CANCELLED, SKIPPED -> of(job).ended(event);
                default -> {
                    // Nothing to be counted.
                }
            }
        }

        @Override
        public void answered(StoreAnswer answer) {
            Objects.requireNonNull(answers.get(answer.step())).record(answer.took());
            answer.trouble().ifPresent(trouble -> errors(trouble).increment());
        }

        @Override
        public void around(Run run, Attempt attempt) throws Exception {
            JobMeters own = of(run.job());
            if (run.attempt() == 1) {
                own.late(Duration.between(run.planned(), run.startedAt()));
            }
            long begun = System.nanoTime();
            try {
                attempt.proceed();
            } finally {
                own.took(System.nanoTime() - begun);
            }
        }
    }
}
