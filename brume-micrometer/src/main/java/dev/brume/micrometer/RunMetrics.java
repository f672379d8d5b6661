package dev.brume.micrometer;

import dev.brume.EngineListener;
import dev.brume.Event;
import dev.brume.Interceptor;
import dev.brume.JobName;
import dev.brume.Run;
import dev.brume.StoreAnswer;
import dev.brume.StoreException;
import io.micrometer.core.instrument.Counter;
import io.micrometer.core.instrument.Gauge;
import io.micrometer.core.instrument.MeterRegistry;
import io.micrometer.core.instrument.Timer;
import java.time.Duration;
import java.util.EnumMap;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentMap;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * The metrics of what happens as runs go on: ends, attempts, durations, lateness, and how the store answers.
 *
 * <p>Safe for use by many threads.
 *
 * @see BrumeMetrics
 * @since 0.1.0
 */
public final class RunMetrics implements EngineListener, Interceptor {
    private static final Duration[] ANSWERS = {
        Duration.ofMillis(1),
        Duration.ofMillis(5),
        Duration.ofMillis(20),
        Duration.ofMillis(100),
        Duration.ofMillis(500),
        Duration.ofSeconds(2),
        Duration.ofSeconds(10)
    };

    private static final Logger LOG = LoggerFactory.getLogger(RunMetrics.class);

    private final MeterRegistry registry;
    private final ConcurrentMap<JobName, JobMeters> jobs = new ConcurrentHashMap<>();
    private final JobMeters others;
    private final JobLabels labels;
    private final Map<StoreAnswer.Step, Timer> answers = new EnumMap<>(StoreAnswer.Step.class);
    private final Counter leasesLost;
    private final Counter refused;
    private final Counter problems;

    /**
     * Creates the metrics.
     *
     * @param mostJobs how many jobs have a label of their own, from 0
     */
    public RunMetrics(MeterRegistry registry, int mostJobs) {
        this.registry = registry;
        labels = new JobLabels(mostJobs, System::nanoTime, this::drop);
        others = new JobMeters(registry, JobLabels.OTHER);
        leasesLost = counter("brume.leases.lost", "How often this instance may have lost its lease, or one by name.");
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
        return labels.use(job) ? jobs.computeIfAbsent(job, name -> new JobMeters(registry, name.toString())) : others;
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
            case MISSED -> of(job).count("brume.occurrences.missed", "Occurrences that were missed.", event.count());
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

    /** On the thread of the attempt, which is not to fail of it. */
    private void note(Run run, long took) {
        try {
            JobMeters own = of(run.job());
            if (run.attempt() == 1) {
                own.late(Duration.between(run.planned(), run.startedAt()));
            }
            own.took(took);
        } catch (RuntimeException e) {
            LOG.warn("run {} of {} could not be measured", run.id(), run.job(), e);
        }
    }

    @Override
    public void around(Run run, Attempt attempt) throws Exception {
        long begun = System.nanoTime();
        try {
            attempt.proceed();
        } finally {
            note(run, System.nanoTime() - begun);
        }
    }
}
