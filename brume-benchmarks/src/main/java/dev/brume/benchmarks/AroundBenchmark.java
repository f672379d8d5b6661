package dev.brume.benchmarks;

import dev.brume.EngineListener;
import dev.brume.Event;
import dev.brume.EventFilter;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.JobScope;
import dev.brume.Run;
import dev.brume.internal.event.Listeners;
import dev.brume.internal.work.Interceptors;
import java.lang.reflect.Proxy;
import java.time.Duration;
import java.time.Instant;
import java.util.Set;
import java.util.concurrent.TimeUnit;
import org.openjdk.jmh.annotations.Benchmark;
import org.openjdk.jmh.annotations.BenchmarkMode;
import org.openjdk.jmh.annotations.Mode;
import org.openjdk.jmh.annotations.OutputTimeUnit;
import org.openjdk.jmh.annotations.Scope;
import org.openjdk.jmh.annotations.Setup;
import org.openjdk.jmh.annotations.State;
import org.openjdk.jmh.annotations.TearDown;
import org.openjdk.jmh.infra.Blackhole;
import org.openjdk.jmh.runner.RunnerException;

/** What a listener and an interceptor cost each run: the three events of a run made and handed over, and an attempt gone around. */
@State(Scope.Thread)
@BenchmarkMode(Mode.AverageTime)
@OutputTimeUnit(TimeUnit.NANOSECONDS)
public class AroundBenchmark {
    private static final Instant BEGIN = Instant.parse("2026-11-23T10:00:00Z");
    private static final JobName BOARDS = JobName.parse("harbour/boards");

    private final Job job = Job.named(BOARDS).tag("boards").handler("boards").build();
    private final Run run = (Run)
            Proxy.newProxyInstance(Run.class.getClassLoader(), new Class<?>[] {Run.class}, (proxy, method, args) -> {
                throw new UnsupportedOperationException(method.getName());
            });
    private final Interceptors none = new Interceptors();
    private final Interceptors one = new Interceptors();
    private final Listeners unheard = listeners();
    private final Listeners heard = listeners();
    private long number;

    /** Creates the state. */
    public AroundBenchmark() {
        // Set up by the harness.
    }

    private static Listeners listeners() {
        EngineListener nobody = new EngineListener() {
            @Override
            public boolean wants(Event.Kind kind) {
                return false;
            }

            @Override
            public void saw(Event event) {
                throw new IllegalStateException("nobody wants it");
            }
        };
        return new Listeners(nobody, name -> Set.of());
    }

    /** Adds one of each. */
    @Setup
    public void setUp() {
        one.add("tenants", JobScope.ALL, (each, attempt) -> attempt.proceed());
        heard.add("office", EventFilter.ALL, event -> {});
    }

    /** Ends the listener's thread. */
    @TearDown
    public void tearDown() throws InterruptedException {
        heard.close(Duration.ofSeconds(1));
    }

    /** The yardstick of attempts. */
    @Benchmark
    public void noInterceptor(Blackhole sink) throws Exception {
        none.around(run, job, () -> sink.consume(job));
    }

    /** One that proceeds. */
    @Benchmark
    public void interceptor(Blackhole sink) throws Exception {
        one.around(run, job, () -> sink.consume(job));
    }

    /** The yardstick of events, as the engine asks before it makes them. */
    @Benchmark
    public boolean noListener() {
        return tell(unheard, Event.Kind.PLANNED)
                | tell(unheard, Event.Kind.STARTED)
                | tell(unheard, Event.Kind.SUCCEEDED);
    }

    /** One that wants every event. */
    @Benchmark
    public boolean listener() {
        return tell(heard, Event.Kind.PLANNED) | tell(heard, Event.Kind.STARTED) | tell(heard, Event.Kind.SUCCEEDED);
    }

    private boolean tell(Listeners listeners, Event.Kind kind) {
        boolean wanted = listeners.wants(kind);
        if (wanted) {
            listeners.saw(Event.of(kind, BEGIN, "quay-1", "after 12ms")
                    .withJob(BOARDS)
                    .withRun(number++)
                    .withPlanned(BEGIN));
        }
        return wanted;
    }

    /** Runs the benchmark and prints its figures. */
    public static void main(String[] args) throws RunnerException {
        Runs.measure(AroundBenchmark.class);
    }
}
