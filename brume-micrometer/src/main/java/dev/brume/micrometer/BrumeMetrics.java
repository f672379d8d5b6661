package dev.brume.micrometer;

import dev.brume.Brume;
import dev.brume.JobScope;
import dev.brume.ListenerStatus;
import dev.brume.RunState;
import dev.brume.Vitals;
import dev.brume.history.Backlog;
import dev.brume.history.NoticeFigures;
import io.micrometer.core.instrument.FunctionCounter;
import io.micrometer.core.instrument.Gauge;
import io.micrometer.core.instrument.MeterRegistry;
import io.micrometer.core.instrument.Tags;
import io.micrometer.core.instrument.binder.MeterBinder;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
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
        RunMetrics told = new RunMetrics(registry, mostJobs);
        brume.listenAtOnce(told);
        brume.around("metrics", JobScope.ALL, told);
        vitals(registry);
        backlog(registry);
        notices(registry);
        Set<String> known = ConcurrentHashMap.newKeySet();
        listeners(registry, known);
        backlog.whenRead(() -> listeners(registry, known));
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

    /** How telling fares, of all together. */
    private void notices(MeterRegistry registry) {
        notices(registry, "brume.notices.waiting", "Notices that are to be sent.", NoticeFigures::waiting);
        notices(
                registry,
                "brume.notices.undelivered",
                "Notices that are kept and were not delivered.",
                NoticeFigures::undelivered);
        notices(
                registry,
                "brume.notices.delivered",
                "Notices that are kept and were delivered; they are kept for 30 days.",
                NoticeFigures::delivered);
        notices(
                registry,
                "brume.notices.folded",
                "How much more came of what goes on than was told.",
                NoticeFigures::folded);
        notices(registry, "brume.notices.causes", "Causes of notices that go on.", NoticeFigures::causes);
        Gauge.builder(
                        "brume.notices.oldest",
                        backlog,
                        all -> all.notices()
                                .map(figures -> figures.oldestWaiting()
                                        .map(at -> seconds(Duration.between(
                                                at, all.get().orElseThrow().at())))
                                        .orElse(0.0))
                                .orElse(Double.NaN))
                .description("For how long the oldest notice has been waiting to be sent.")
                .baseUnit("seconds")
                .strongReference(true)
                .register(registry);
    }

    private void notices(MeterRegistry registry, String name, String meaning, ToDoubleFunction<NoticeFigures> value) {
        Gauge.builder(
                        name,
                        backlog,
                        all -> all.notices().map(value::applyAsDouble).orElse(Double.NaN))
                .description(meaning)
                .strongReference(true)
                .register(registry);
    }

    private void shared(MeterRegistry registry, String name, String meaning, ToDoubleFunction<Backlog> value) {
        Gauge.builder(name, backlog, all -> all.get().map(value::applyAsDouble).orElse(Double.NaN))
                .description(meaning)
                .strongReference(true)
                .register(registry);
    }

    /** Those that are new; the application may add some later. */
    private void listeners(MeterRegistry registry, Set<String> known) {
        for (ListenerStatus listener : brume.listeners()) {
            String name = listener.name();
            if (!known.add(name)) {
                continue;
            }
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
}
