package dev.brume.micrometer;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.Brume;
import dev.brume.EngineListener;
import dev.brume.Event;
import dev.brume.EventFilter;
import dev.brume.IfFailed;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.JobScope;
import dev.brume.Outcome;
import dev.brume.StoreAnswer;
import dev.brume.Vitals;
import dev.brume.memory.MemoryStore;
import io.micrometer.core.instrument.Clock;
import io.micrometer.core.instrument.Meter;
import io.micrometer.core.instrument.config.MeterFilter;
import io.micrometer.prometheusmetrics.PrometheusConfig;
import io.micrometer.prometheusmetrics.PrometheusMeterRegistry;
import io.prometheus.metrics.model.registry.PrometheusRegistry;
import io.prometheus.metrics.tracer.common.SpanContext;
import java.time.Duration;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;
import java.util.regex.MatchResult;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

class BrumeMetricsTest {
    private static final Duration LONG = Duration.ofSeconds(60);
    private static final JobName DUES = JobName.parse("harbour/dues");

    private final PrometheusMeterRegistry registry = new PrometheusMeterRegistry(PrometheusConfig.DEFAULT);
    private final Brume brume = Brume.on(new MemoryStore())
            .instance("quay-1")
            .lane("main", 3)
            .lane("night", 1)
            .poll(Duration.ofMillis(50))
            .withoutLog()
            .build();
    private final BrumeMetrics metrics = new BrumeMetrics(brume, 2);

    @AfterEach
    void close() {
        metrics.close();
        brume.close();
    }

    private String scrape() {
        return registry.scrape("application/openmetrics-text; version=1.0.0; charset=utf-8");
    }

    private void run(String job) throws Exception {
        brume.orders("anna", "").runNow(JobName.parse(job)).await(LONG);
    }

    @Test
    void whatHappenedIsCountedUnderTheNamesOfOpenMetrics() throws Exception {
        metrics.bindTo(registry);
        brume.listen("board", EventFilter.ALL, event -> {});
        brume.define(Job.named(DUES), run -> {});
        brume.define(Job.named("boards").ifFailed(IfFailed.attempts(2, Duration.ZERO)), run -> {
            throw new IllegalStateException("no paint");
        });
        brume.define(Job.named("lamps"), run -> {});
        brume.define(Job.named("buoys"), run -> {});
        assertThat(scrape()).contains("brume_workers_free{lane=\"night\"} 1.0");
        brume.start();
        run("harbour/dues");
        run("harbour/dues");
        run("boards");
        run("lamps");
        run("buoys");
        assertThat(brume.stop(LONG)).isTrue();

        String scraped = scrape();

        assertThat(scraped)
                .contains(
                        "brume_runs_ended_total{job=\"harbour/dues\",outcome=\"SUCCEEDED\",reason=\"none\"} 2.0",
                        "brume_runs_ended_total{job=\"boards\",outcome=\"FAILED\",reason=\"NO_ATTEMPT_LEFT\"} 1.0",
                        "brume_runs_ended_total{job=\"other\",outcome=\"SUCCEEDED\",reason=\"none\"} 2.0",
                        "brume_attempts_begun_total{job=\"boards\"} 2.0",
                        "brume_attempts_failed_total{job=\"boards\"} 1.0",
                        "brume_attempt_duration_seconds_count{job=\"boards\"} 2",
                        "brume_attempt_duration_seconds_bucket{job=\"harbour/dues\",le=\"14400.0\"} 2",
                        "brume_run_lateness_seconds_count{job=\"boards\"} 1",
                        "brume_jobs_labelled 2.0",
                        "brume_workers{lane=\"main\"} 3.0",
                        "brume_database_duration_seconds_bucket{step=\"TRANSACTION\",le=\"0.001\"}",
                        "brume_database_errors_total{trouble=\"UNREACHABLE\"} 0.0",
                        "brume_backlog_owed 0.0",
                        "brume_backlog_oldest_seconds 0.0",
                        "brume_listener_passed_over_total{listener=\"board\"} 0.0",
                        "# EOF")
                .doesNotContain("job=\"lamps\"");
    }

    @Test
    void anInstanceAtWorkTellsWhatItAndTheClusterHaveToDo() throws Exception {
        metrics.bindTo(registry);
        CountDownLatch begun = new CountDownLatch(1);
        CountDownLatch letGo = new CountDownLatch(1);
        brume.define(Job.named(DUES).lane("night"), run -> {
            begun.countDown();
            letGo.await();
        });
        brume.define(Job.named("unserved").lane("day"), run -> {});
        brume.start();
        brume.orders("anna", "").runNow(DUES);
        brume.orders("anna", "").runNow(JobName.parse("unserved"));
        assertThat(begun.await(60, TimeUnit.SECONDS)).isTrue();

        scrape();
        String scraped = scrape();
        Vitals vitals = brume.vitals();
        letGo.countDown();

        assertThat(scraped)
                .contains(
                        "brume_workers_busy{lane=\"night\"} 1.0",
                        "brume_workers_free{lane=\"night\"} 0.0",
                        "brume_runs_held 1.0",
                        "brume_instances 1.0",
                        "brume_backlog_runs{lane=\"night\",state=\"RUNNING\"} 1.0",
                        "brume_backlog_runs{lane=\"day\",state=\"PLANNED\"} 1.0",
                        "brume_backlog_owed 1.0",
                        "brume_database_away_seconds 0.0")
                .doesNotContain("brume_duty_idle_seconds{duty=\"round\"} NaN", "brume_lease_left_seconds NaN");
        assertThat(vitals.sinceTurn().keySet()).isEqualTo(Set.copyOf(Vitals.DUTIES));
        assertThat(vitals.state()).isEqualTo(Vitals.State.AT_WORK);
        brume.close();
        assertThat(brume.vitals().state()).isEqualTo(Vitals.State.STOPPED);
    }

    @Test
    void durationsPointToTheTraceOfTheirAttempt() throws Exception {
        ThreadLocal<String> trace = new ThreadLocal<>();
        PrometheusMeterRegistry tracing = new PrometheusMeterRegistry(
                PrometheusConfig.DEFAULT, new PrometheusRegistry(), Clock.SYSTEM, new SpanContext() {
                    @Override
                    public String getCurrentTraceId() {
                        return trace.get();
                    }

                    @Override
                    public String getCurrentSpanId() {
                        return trace.get() == null ? null : "00f067aa0ba902b7";
                    }

                    @Override
                    public boolean isCurrentSpanSampled() {
                        return true;
                    }

                    @Override
                    public void markCurrentSpanAsExemplar() {
                        // Nobody asks for it here.
                    }
                });
        brume.around("span", JobScope.ALL, (run, attempt) -> {
            trace.set("4bf92f3577b34da6a3ce929d0e0e4736");
            attempt.proceed();
        });
        metrics.bindTo(tracing);
        brume.define(Job.named(DUES), run -> {});
        brume.start();
        run("harbour/dues");
        brume.stop(LONG);

        assertThat(tracing.scrape("application/openmetrics-text; version=1.0.0; charset=utf-8"))
                .containsPattern(
                        "brume_attempt_duration_seconds_bucket.*# \\{.*trace_id=\"4bf92f3577b34da6a3ce929d0e0e4736\"");
    }

    @Test
    void aRegistryThatThrowsFailsNoRun() throws Exception {
        metrics.bindTo(registry);
        registry.config().meterFilter(new MeterFilter() {
            @Override
            public Meter.Id map(Meter.Id id) {
                throw new IllegalStateException("no " + id.getName());
            }
        });
        AtomicLong looks = new AtomicLong();
        brume.listenAtOnce(new EngineListener() {
            @Override
            public void saw(Event event) {
                throw new IllegalStateException("no " + event.kind());
            }

            @Override
            public void answered(StoreAnswer answer) {
                looks.incrementAndGet();
                throw new IllegalStateException("no " + answer.step());
            }
        });
        brume.define(Job.named(DUES), run -> {});
        brume.start();

        assertThat(brume.orders("anna", "").runNow(DUES).await(LONG).outcome()).isEqualTo(Outcome.SUCCEEDED);
        assertThat(looks).hasPositiveValue();
    }

    /** Whoever listens from the start hears of answers too, whether or not there is a log. */
    @Test
    void answersOfTheStoreAreToldToTheFirstListener() {
        AtomicLong answers = new AtomicLong();
        EngineListener counting = new EngineListener() {
            @Override
            public void saw(Event event) {
                // Answers are asked for here.
            }

            @Override
            public void answered(StoreAnswer answer) {
                answers.incrementAndGet();
            }
        };
        try (Brume logging =
                Brume.on(new MemoryStore()).engineListener(counting).build()) {
            logging.define(Job.named(DUES), run -> {});
        }
        assertThat(answers).hasPositiveValue();
    }

    /** Each metric that a rule names is there, so that no rule is silent for a wrong name. */
    @Test
    void theRulesAskForWhatIsThere() throws Exception {
        brume.listen("board", EventFilter.ALL, event -> {});
        metrics.bindTo(registry);
        brume.define(Job.named(DUES), run -> {});
        brume.start();
        run("harbour/dues");
        brume.stop(LONG);
        scrape();
        String scraped = scrape();

        Set<String> asked = Pattern.compile("brume_[a-z_]+")
                .matcher(BrumeMetrics.alertRules()
                        .lines()
                        .filter(line -> line.contains("expr:"))
                        .collect(Collectors.joining("\n")))
                .results()
                .map(MatchResult::group)
                .collect(Collectors.toCollection(TreeSet::new));

        // What has not happened has no series yet.
        asked.removeAll(Set.of("brume_occurrences_missed_total", "brume_runs_taken_over_total", "brume_backlog_runs"));
        assertThat(asked)
                .hasSizeGreaterThan(12)
                .allSatisfy(name -> assertThat(scraped).containsPattern("(?m)^" + name + "[{ ]"));
        assertThat(BrumeMetrics.alertRules().split("- alert:"))
                .hasSizeGreaterThan(15)
                .allSatisfy(rule -> assertThat(rule.contains("summary:") || rule.startsWith("#"))
                        .isTrue());
    }

    @Test
    void ofAHundredThousandJobsTheBusiestHaveALabel() {
        AtomicLong nanos = new AtomicLong();
        Map<JobName, Boolean> dropped = new ConcurrentHashMap<>();
        JobLabels labels = new JobLabels(100, nanos::get, job -> dropped.put(job, true));
        JobName busy = JobName.parse("busy");
        for (int i = 0; i < 100_000; i++) {
            labels.use(JobName.parse("job-" + i));
            if (i % 500 == 499) {
                labels.use(busy);
            }
        }
        assertThat(labels.size()).isEqualTo(100);
        assertThat(labels.use(busy)).as("it came too late").isFalse();

        nanos.addAndGet(Duration.ofMinutes(11).toNanos());
        labels.use(JobName.parse("job-99999"));

        assertThat(labels.use(busy))
                .as("it was busier than those that came first")
                .isTrue();
        assertThat(labels.size()).isEqualTo(100);
        assertThat(dropped).as("no other has lost its label").hasSize(1);
        assertThatThrownBy(() -> new BrumeMetrics(brume, -1)).hasMessage("mostJobs: -1 is below 0");
    }
}
