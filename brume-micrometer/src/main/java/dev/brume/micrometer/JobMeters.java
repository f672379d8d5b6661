package dev.brume.micrometer;

import dev.brume.Event;
import io.micrometer.core.instrument.Counter;
import io.micrometer.core.instrument.Meter;
import io.micrometer.core.instrument.MeterRegistry;
import io.micrometer.core.instrument.Tags;
import io.micrometer.core.instrument.Timer;
import java.time.Duration;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentMap;
import java.util.stream.Stream;

/** The meters of one job, or of all that have no label of their own; each comes into being with its first use. Safe for use by many threads. */
final class JobMeters {
    private static final String NO_REASON = "none";

    /** From what is too short to notice to what takes a night. */
    private static final Duration[] DURATIONS = Stream.of(
                    "PT0.005S",
                    "PT0.025S",
                    "PT0.1S",
                    "PT0.5S",
                    "PT1S",
                    "PT5S",
                    "PT15S",
                    "PT1M",
                    "PT5M",
                    "PT15M",
                    "PT1H",
                    "PT4H")
            .map(Duration::parse)
            .toArray(Duration[]::new);

    private static final Duration[] LATENESSES = Stream.of(
                    "PT0.002S", "PT0.01S", "PT0.05S", "PT0.25S", "PT1S", "PT5S", "PT15S", "PT1M", "PT5M", "PT1H")
            .map(Duration::parse)
            .toArray(Duration[]::new);

    private final MeterRegistry registry;
    private final String label;
    private final ConcurrentMap<String, Counter> counters = new ConcurrentHashMap<>();
    private final ConcurrentMap<String, Timer> timers = new ConcurrentHashMap<>();

    JobMeters(MeterRegistry registry, String label) {
        this.registry = registry;
        this.label = label;
    }

    /** Counts the end of a run. */
    void ended(Event event) {
        String outcome =
                event.outcome().map(Enum::name).orElseGet(() -> event.kind().name());
        String reason = event.reason().map(Enum::name).orElse(NO_REASON);
        counters.computeIfAbsent(
                        outcome + reason,
                        key -> Counter.builder("brume.runs.ended")
                                .description("Runs that came to their end, by outcome and reason.")
                                .tags(Tags.of("job", label, "outcome", outcome, "reason", reason))
                                .register(registry))
                .increment();
    }

    /** Counts something that is told apart by the job alone. */
    void count(String name, String meaning, long by) {
        counters.computeIfAbsent(
                        name,
                        key -> Counter.builder(name)
                                .description(meaning)
                                .tag("job", label)
                                .register(registry))
                .increment((double) by);
    }

    /** Notes how long an attempt took, on the thread that carried it out, so that a trace can be pointed to. */
    void took(long nanos) {
        timer("brume.attempt.duration", "How long attempts took.", DURATIONS).record(Duration.ofNanos(nanos));
    }

    /** Notes how long after its planned instant a run began. */
    void late(Duration by) {
        timer("brume.run.lateness", "How long after their planned instant runs began.", LATENESSES)
                .record(by.isNegative() ? Duration.ZERO : by);
    }

    private Timer timer(String name, String meaning, Duration[] buckets) {
        return timers.computeIfAbsent(
                name,
                key -> Timer.builder(name)
                        .description(meaning)
                        .tag("job", label)
                        .serviceLevelObjectives(buckets)
                        .register(registry));
    }

    /** Ends its series. */
    void remove() {
        Stream.<Meter>concat(counters.values().stream(), timers.values().stream())
                .forEach(registry::remove);
    }
}
