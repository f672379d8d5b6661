package dev.brume.benchmarks;

import dev.brume.AttemptEnd;
import dev.brume.Event;
import dev.brume.GuardedWork;
import dev.brume.JobName;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.OwnTransaction;
import dev.brume.Run;
import dev.brume.StopReason;
import dev.brume.micrometer.RunMetrics;
import dev.brume.otel.OtelTraces;
import dev.brume.spi.Traces;
import io.micrometer.prometheusmetrics.PrometheusConfig;
import io.micrometer.prometheusmetrics.PrometheusMeterRegistry;
import io.opentelemetry.sdk.OpenTelemetrySdk;
import io.opentelemetry.sdk.common.CompletableResultCode;
import io.opentelemetry.sdk.trace.SdkTracerProvider;
import io.opentelemetry.sdk.trace.data.SpanData;
import io.opentelemetry.sdk.trace.export.BatchSpanProcessor;
import io.opentelemetry.sdk.trace.export.SpanExporter;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.TimeUnit;
import java.util.stream.IntStream;
import org.openjdk.jmh.annotations.Benchmark;
import org.openjdk.jmh.annotations.BenchmarkMode;
import org.openjdk.jmh.annotations.Mode;
import org.openjdk.jmh.annotations.OutputTimeUnit;
import org.openjdk.jmh.annotations.Scope;
import org.openjdk.jmh.annotations.State;
import org.openjdk.jmh.annotations.TearDown;
import org.openjdk.jmh.infra.Blackhole;
import org.openjdk.jmh.runner.RunnerException;

/** What metrics and traces cost each run: two events counted, an attempt timed, a planning and an attempt traced; also with jobs beyond number. */
@State(Scope.Thread)
@BenchmarkMode(Mode.AverageTime)
@OutputTimeUnit(TimeUnit.NANOSECONDS)
public class SignalsBenchmark {
    private static final Instant BEGIN = Instant.parse("2026-11-23T10:00:00Z");
    private static final int MOST_JOBS = 200;
    private static final int MANY = 100_000;

    private final RunMetrics metrics = new RunMetrics(new PrometheusMeterRegistry(PrometheusConfig.DEFAULT), MOST_JOBS);
    private final RunMetrics crowded = new RunMetrics(new PrometheusMeterRegistry(PrometheusConfig.DEFAULT), MOST_JOBS);
    private final SdkTracerProvider provider = SdkTracerProvider.builder()
            .addSpanProcessor(BatchSpanProcessor.builder(new Nowhere()).build())
            .build();
    private final Traces traces =
            OtelTraces.of(OpenTelemetrySdk.builder().setTracerProvider(provider).build());
    private final Run one = new BareRun(JobName.parse("harbour/boards"));
    private final List<Run> many = IntStream.range(0, MANY)
            .mapToObj(i -> (Run) new BareRun(JobName.parse("job-" + i)))
            .toList();
    private int next;

    /** Creates the state. */
    public SignalsBenchmark() {
        // Set up by the harness.
    }

    /** Takes spans and keeps none. */
    private static final class Nowhere implements SpanExporter {
        @Override
        public CompletableResultCode export(Collection<SpanData> spans) {
            return CompletableResultCode.ofSuccess();
        }

        @Override
        public CompletableResultCode flush() {
            return CompletableResultCode.ofSuccess();
        }

        @Override
        public CompletableResultCode shutdown() {
            return CompletableResultCode.ofSuccess();
        }
    }

    /** A run that was planned. */
    private record BareRun(JobName job) implements Run {
        private static final List<String> PLANNING = List.of("00-0af7651916cd43dd8448eb211c80319c-b7ad6b7169203331-01");

        @Override
        public long id() {
            return 17;
        }

        @Override
        public Instant planned() {
            return BEGIN;
        }

        @Override
        public LocalDateTime plannedLocal() {
            return LocalDateTime.ofInstant(BEGIN, ZoneOffset.UTC);
        }

        @Override
        public Origin origin() {
            return Origin.SCHEDULE;
        }

        @Override
        public Optional<Previous> previous() {
            return Optional.empty();
        }

        @Override
        public Optional<Parent> parent() {
            return Optional.empty();
        }

        @Override
        public Optional<Duration> timeLeft() {
            return Optional.empty();
        }

        @Override
        public int attempt() {
            return 1;
        }

        @Override
        public List<String> traces() {
            return PLANNING;
        }

        @Override
        public Instant startedAt() {
            return BEGIN.plusMillis(3);
        }

        @Override
        public long fence() {
            return 18;
        }

        @Override
        public Optional<String> payload() {
            return Optional.empty();
        }

        @Override
        public void print(String line) {
            throw new UnsupportedOperationException(line);
        }

        @Override
        public void progress(int percent, String message) {
            throw new UnsupportedOperationException(message);
        }

        @Override
        public void result(String text) {
            throw new UnsupportedOperationException(text);
        }

        @Override
        public void commit(GuardedWork work) {
            throw new UnsupportedOperationException("commit");
        }

        @Override
        public void commit(OwnTransaction transaction, GuardedWork work) {
            throw new UnsupportedOperationException("commit");
        }

        @Override
        public Optional<StopReason> stopAsked() {
            return Optional.empty();
        }
    }

    /** Ends the thread that passes spans on. */
    @TearDown
    public void tearDown() {
        provider.close();
    }

    /** The yardstick: the events are made, and nobody counts them. */
    @Benchmark
    public void nothing(Blackhole sink) {
        sink.consume(started(one));
        sink.consume(one);
        sink.consume(ended(one));
    }

    /** Metrics of one job. */
    @Benchmark
    public void metrics(Blackhole sink) throws Exception {
        counted(metrics, one, sink);
    }

    /** Metrics of a hundred thousand jobs in turn, of which two hundred have a label. */
    @Benchmark
    public void metricsOfManyJobs(Blackhole sink) throws Exception {
        next = next + 1 == MANY ? 0 : next + 1;
        counted(crowded, many.get(next), sink);
    }

    /** A planning and an attempt. */
    @Benchmark
    public void traces(Blackhole sink) {
        sink.consume(started(one));
        traced(sink);
        sink.consume(ended(one));
    }

    /** Both. */
    @Benchmark
    public void both(Blackhole sink) throws Exception {
        metrics.saw(started(one));
        Traces.Planning planning = traces.planning();
        sink.consume(planning.context());
        planning.committed(1);
        Traces.Attempted attempt = traces.attempt(one);
        metrics.around(one, () -> sink.consume(traces.here()));
        attempt.ended(AttemptEnd.SUCCEEDED, Optional.empty());
        metrics.saw(ended(one));
    }

    private static void counted(RunMetrics by, Run run, Blackhole sink) throws Exception {
        by.saw(started(run));
        by.around(run, () -> sink.consume(run));
        by.saw(ended(run));
    }

    private void traced(Blackhole sink) {
        Traces.Planning planning = traces.planning();
        sink.consume(planning.context());
        planning.committed(1);
        Traces.Attempted attempt = traces.attempt(one);
        sink.consume(traces.here());
        attempt.ended(AttemptEnd.SUCCEEDED, Optional.empty());
    }

    private static Event started(Run run) {
        return Event.of(Event.Kind.STARTED, BEGIN, "quay-1", "planned")
                .withJob(run.job())
                .withRun(run.id())
                .withAttempt(1)
                .withPlanned(BEGIN);
    }

    private static Event ended(Run run) {
        return Event.of(Event.Kind.SUCCEEDED, BEGIN, "quay-1", "after 12ms")
                .withJob(run.job())
                .withRun(run.id())
                .withOutcome(Outcome.SUCCEEDED);
    }

    /** Runs the benchmark and prints its figures. */
    public static void main(String[] args) throws RunnerException {
        Runs.measure(SignalsBenchmark.class);
    }
}
