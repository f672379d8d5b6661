package dev.brume.spring;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.Mockito.mock;

import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.PropertyNamingStrategies;
import dev.brume.Brume;
import dev.brume.Handler;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.JsonPayloads;
import dev.brume.OneOff;
import dev.brume.OneOffs;
import dev.brume.Outcome;
import dev.brume.PayloadType;
import dev.brume.Run;
import dev.brume.RunResult;
import dev.brume.Vitals;
import dev.brume.history.History;
import dev.brume.memory.MemoryStore;
import dev.brume.micrometer.BrumeMetrics;
import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.NoticeRule;
import dev.brume.notice.Receiver;
import dev.brume.notice.Telling;
import dev.brume.notice.Way;
import dev.brume.schedule.CronSchedule;
import io.micrometer.core.instrument.simple.SimpleMeterRegistry;
import io.opentelemetry.api.OpenTelemetry;
import io.opentelemetry.sdk.OpenTelemetrySdk;
import io.opentelemetry.sdk.testing.exporter.InMemorySpanExporter;
import io.opentelemetry.sdk.trace.SdkTracerProvider;
import io.opentelemetry.sdk.trace.export.SimpleSpanProcessor;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import org.assertj.core.api.InstanceOfAssertFactories;
import org.junit.jupiter.api.Test;
import org.springframework.beans.factory.DisposableBean;
import org.springframework.boot.test.context.FilteredClassLoader;
import org.springframework.boot.test.context.runner.ApplicationContextRunner;
import org.springframework.context.ApplicationContext;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.core.env.MapPropertySource;
import org.springframework.core.env.StandardEnvironment;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.test.util.ReflectionTestUtils;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.support.TransactionTemplate;

/** Run on both lines of Spring Boot. */
class BrumeAutoConfigurationTest {
    private static final Duration LONG = Duration.ofSeconds(60);

    record Berth(int number, String shipName) {}

    record Certificate(String text) {}

    /** What each run has for itself. */
    static class Notes implements DisposableBean {
        private final List<String> log;
        private String line = "";

        Notes(List<String> log) {
            this.log = log;
        }

        void add(String word) {
            line += word;
        }

        @Override
        public void destroy() {
            log.add(line);
        }
    }

    static class Desk {
        private final JdbcTemplate jdbc;
        private final Notes notes;

        Desk(JdbcTemplate jdbc, Notes notes) {
            this.jdbc = jdbc;
            this.notes = notes;
        }

        @Handles("certificates")
        Certificate certify(Run run, Berth berth) {
            notes.add("c" + berth.number());
            notes.add("!");
            return new Certificate("moored at " + berth.number() + ": " + berth.shipName());
        }

        @Handles("echo")
        String echo(String payload) {
            return payload.toUpperCase();
        }

        @Handles(value = "tide-tables", cron = "15 4 * * *", zone = "${harbour.zone}", waits = "10s", ifMissed = "none")
        void tables() {}

        @Handles("dues")
        @CommitsWithRun
        void dues(Run run) {
            jdbc.update("insert into due (run) values (?)", run.id());
            if (run.payload().filter("sink"::equals).isPresent()) {
                throw new IllegalStateException("sunk");
            }
        }

        /** Goes through Spring's proxy. */
        @Handles("lamps")
        @Transactional
        public void lamps(Run run) {
            jdbc.update("insert into due (run) values (?)", run.id());
            throw new IllegalStateException("no oil");
        }
    }

    static class Echo {
        @Handles("echo")
        String echo(String payload) {
            return payload;
        }
    }

    @Configuration(proxyBeanMethods = false)
    static class Office {
        @Bean
        List<String> log() {
            return new CopyOnWriteArrayList<>();
        }

        @Bean
        @RunScoped
        Notes notes(List<String> log) {
            return new Notes(log);
        }

        @Bean
        Desk desk(JdbcTemplate jdbc, Notes notes) {
            jdbc.execute("create table if not exists due (run bigint)");
            return new Desk(jdbc, notes);
        }

        @Bean
        @Handles("buoys")
        Handler buoys() {
            return run -> run.result("lit");
        }
    }

    private static ApplicationContextRunner office() {
        return Line.application()
                .withUserConfiguration(Office.class)
                .withPropertyValues("harbour.zone=Atlantic/Azores");
    }

    private static RunResult run(ApplicationContext context, String job, String payload) throws Exception {
        return context.getBean(Brume.class)
                .orders("anna", "")
                .runNow(JobName.parse(job), payload)
                .await(LONG);
    }

    private static Job job(ApplicationContext context, String name) {
        return context.getBean(History.class)
                .job(JobName.parse(name))
                .orElseThrow()
                .job();
    }

    @Test
    void beansAndTheirMethodsHandleJobs() {
        office().withBean(
                        ObjectMapper.class,
                        () -> new ObjectMapper().setPropertyNamingStrategy(PropertyNamingStrategies.KEBAB_CASE))
                .run(context -> {
                    PayloadType<Berth> berth = PayloadType.json(Berth.class);
                    assertThat(berth.text(new Berth(3, "Skua")))
                            .as("the application's mapper")
                            .contains("\"ship-name\"");
                    assertThat(run(context, "certificates", berth.text(new Berth(3, "Skua")))
                                    .value())
                            .contains("{\"text\":\"moored at 3: Skua\"}");
                    run(context, "certificates", berth.text(new Berth(4, "Tern")));
                    assertThat(context.getBean("log"))
                            .asInstanceOf(InstanceOfAssertFactories.LIST)
                            .as("each run has notes of its own")
                            .containsExactly("c3!", "c4!");
                    assertThat(run(context, "echo", "ahoy").value()).contains("AHOY");
                    assertThat(run(context, "buoys", "").value()).contains("lit");
                    assertThat(run(context, "certificates", "{\"number\":\"many\"}")
                                    .outcome())
                            .isEqualTo(Outcome.FAILED);
                    assertThatThrownBy(() -> context.getBean(Notes.class).add("x"))
                            .hasStackTraceContaining("no run goes on on this thread");
                });
    }

    @Test
    void whenJobsRunStandsBesideHandlersInPropertiesAndInFiles() {
        office().withPropertyValues(
                        "brume.zone=Europe/Lisbon",
                        "brume.definitions=classpath:harbour.yaml",
                        "brume.jobs.echo.when.cron=0 12 * * MON-FRI",
                        "brume.jobs.echo.if-failed.attempts=3",
                        "brume.jobs.echo.ifFailed.wait=${harbour.wait:7s}",
                        "brume.jobs.echo.payload=17",
                        "brume.jobs.echo.tags[0]=tides",
                        "brume.jobs.echo.tags[1]=office",
                        "brume.jobs[harbour/board].work.http.url=http://${harbour.board}/b?at=${plannedLocal}",
                        "brume.jobs[harbour/board].work.http.headers.X-Key=${env:KEY}",
                        "harbour.board=board.example")
                .run(context -> {
                    Job echo = job(context, "echo");
                    assertThat(echo.schedules().get(0)).isInstanceOf(CronSchedule.class);
                    assertThat(echo.schedules().get(0).zone().getId()).isEqualTo("Europe/Lisbon");
                    assertThat(echo.ifFailed().toString()).contains("PT7S");
                    assertThat(echo.payload()).contains("17");
                    assertThat(echo.tags()).containsExactly("office", "tides");
                    assertThat(echo.work().needs()).isEqualTo("echo");
                    assertThat(job(context, "harbour/board").work().toString())
                            .isEqualTo("GET http://board.example/b?at=${plannedLocal}");
                    Job tables = job(context, "tide-tables");
                    assertThat(tables.schedules().get(0).zone().getId()).isEqualTo("Atlantic/Azores");
                    assertThat(tables.ifFailed().toString()).contains("PT10S");
                    assertThat(job(context, "buoys").schedules()).hasSize(1);
                    assertThat(job(context, "dues").schedules()).isEmpty();
                });
    }

    @Test
    void aBeanIsHandedTheNoticesOfTheChannelThatNamesIt() {
        BlockingQueue<Notice> told = new LinkedBlockingQueue<>();
        office().withBean("duty", Receiver.class, () -> told::add).run(context -> {
            context.getBean(Brume.class)
                    .tell(
                            "office",
                            Telling.NOTHING
                                    .with(Channel.named("desk", new Way.Code("duty")))
                                    .with(NoticeRule.named("lamps")
                                            .tell(NoticeKind.FAILED)
                                            .to("desk")));

            run(context, "lamps", "");

            Notice notice = told.poll(LONG.toSeconds(), TimeUnit.SECONDS);
            assertThat(notice).isNotNull();
            assertThat(notice.title()).startsWith("lamps failed: ").contains("no oil");
        });
        office().withBean("Duty officer", Receiver.class, () -> told::add)
                .run(context ->
                        assertThat(context).getFailure().hasStackTraceContaining("name the bean as jobs are named"));
    }

    @Test
    void ordersOfOneOffsArePartOfSpringsTransaction() {
        office().withPropertyValues("brume.start=false").run(context -> {
            OneOffs orders = context.getBean(OneOffs.class);
            TransactionTemplate transaction = context.getBean(TransactionTemplate.class);
            JobName dues = JobName.parse("dues");

            transaction.executeWithoutResult(status -> {
                orders.add(OneOff.of(dues, "kept"));
                context.getBean(Brume.class).orders("anna", "").oneOffs().add(OneOff.of(dues, "kept too"));
            });
            transaction.executeWithoutResult(status -> {
                orders.add(OneOff.of(dues, "rolled back"));
                status.setRollbackOnly();
            });
            orders.add(OneOff.of(dues, "alone"));

            assertThat(orders.waiting(dues, "", 10))
                    .extracting(each -> each.key())
                    .containsExactly("alone", "kept", "kept too");
            assertThat(context.getBean(Brume.class).vitals().state()).isEqualTo(Vitals.State.IDLE);
        });
    }

    @Test
    void aMethodCommitsWithItsRunInOneOfSpringsTransactions() {
        office().run(context -> {
            JdbcTemplate jdbc = context.getBean(JdbcTemplate.class);

            assertThat(run(context, "dues", "").outcome()).isEqualTo(Outcome.SUCCEEDED);
            assertThat(run(context, "dues", "sink").outcome()).isEqualTo(Outcome.FAILED);
            assertThat(run(context, "lamps", "").outcome()).isEqualTo(Outcome.FAILED);

            assertThat(jdbc.queryForObject("select count(*) from due", Integer.class))
                    .isEqualTo(1);
            Brume brume = context.getBean(Brume.class);
            brume.define(
                    Job.named("by-hand"),
                    run -> context.getBean(RunTransactions.class)
                            .commit(run, () -> jdbc.update("insert into due (run) values (-1)")));
            assertThat(run(context, "by-hand", "").outcome()).isEqualTo(Outcome.SUCCEEDED);
            assertThat(jdbc.queryForObject("select count(*) from due", Integer.class))
                    .isEqualTo(2);
        });
    }

    @Test
    void actuatorShowsHowTheInstanceFares() {
        office().withPropertyValues("management.endpoints.web.exposure.include=*")
                .run(context -> {
                    run(context, "buoys", "");
                    BrumeEndpoint endpoint = context.getBean(BrumeEndpoint.class);

                    assertThat(endpoint.fares())
                            .containsEntry("ready", true)
                            .containsEntry("state", Vitals.State.AT_WORK);
                    assertThat(endpoint.look("doctor")).containsEntry("instances", 1);
                    assertThat(endpoint.look("nurse")).isNull();
                    assertThat(context).hasBean("brumeHealthIndicator").hasBean("brumeLiveHealthIndicator");
                    Object indicator = context.getBean("brumeHealthIndicator");
                    Object health = ReflectionTestUtils.invokeMethod(indicator, "health");
                    assertThat(String.valueOf(health)).contains("UP");
                });
    }

    @Test
    void withoutActuatorAndSignalsTheApplicationWorksAllTheSame() {
        Line.application()
                .withBean(Echo.class)
                .withClassLoader(new FilteredClassLoader(
                        "org.springframework.boot.actuate",
                        "org.springframework.boot.health",
                        "io.micrometer",
                        "io.opentelemetry",
                        "dev.brume.micrometer",
                        "dev.brume.otel",
                        "dev.brume.definitions"))
                .run(context -> {
                    assertThat(context)
                            .hasNotFailed()
                            .doesNotHaveBean("brumeEndpoint")
                            .doesNotHaveBean("brumeMetrics");
                    assertThat(run(context, "echo", "ahoy").value()).contains("ahoy");
                });
    }

    @Test
    void metricsAndTracesComeWithTheirModules() {
        InMemorySpanExporter exporter = InMemorySpanExporter.create();
        OpenTelemetrySdk telemetry = OpenTelemetrySdk.builder()
                .setTracerProvider(SdkTracerProvider.builder()
                        .addSpanProcessor(SimpleSpanProcessor.create(exporter))
                        .build())
                .build();
        office().withBean(OpenTelemetry.class, () -> telemetry)
                .withPropertyValues("brume.metrics-jobs=5")
                .run(context -> {
                    SimpleMeterRegistry registry = new SimpleMeterRegistry();
                    context.getBean(BrumeMetrics.class).bindTo(registry);
                    run(context, "buoys", "");

                    assertThat(registry.get("brume.attempt.duration")
                                    .tag("job", "buoys")
                                    .timer()
                                    .count())
                            .isEqualTo(1);
                    assertThat(exporter.getFinishedSpanItems())
                            .extracting(span -> span.getName())
                            .contains("brume run buoys");
                });
    }

    @Test
    void itCanBeLeftOut() {
        office().withPropertyValues("brume.enabled=false")
                .run(context -> assertThat(context).doesNotHaveBean(Brume.class));
    }

    @Test
    void whatIsMadeByTheApplicationIsLeftToIt() {
        MemoryStore store = new MemoryStore();
        office().withBean(Brume.class, () -> Brume.on(store).instance("own").build())
                .run(context -> assertThat(context.getBean(Brume.class).vitals().instance())
                        .isEqualTo("own"));
    }

    @Test
    void lanesAndLabelsMayBeWrittenAsYamlHasThem() {
        office().withPropertyValues(
                        "brume.lanes.main=3", "brume.lanes.bulk=1", "brume.labels[0]=crane", "brume.labels[1]=north")
                .run(context -> assertThat(context.getBean(Brume.class).vitals().lanes())
                        .isEqualTo(Map.of("main", new Vitals.Lane(3, 0), "bulk", new Vitals.Lane(1, 0))));
        StandardEnvironment environment = new StandardEnvironment();
        environment
                .getPropertySources()
                .addFirst(new MapPropertySource("test", Map.of("spring.lifecycle.timeout-per-shutdown-phase", "60s")));
        assertThat(new BrumeSettings(environment).configuration().get("drain-limit"))
                .contains("55000ms");
    }

    @Test
    void theInstanceStopsAfterTheWebServerTakesNoMoreRequests() {
        office().run(context -> {
            Brume brume = context.getBean(Brume.class);
            BrumeLifecycle lifecycle = context.getBean(BrumeLifecycle.class);
            assertThat(lifecycle.getPhase()).isLessThan(Integer.MAX_VALUE - 2048);
            assertThat(lifecycle.isRunning()).isTrue();
            context.close();
            assertThat(brume.vitals().state()).isEqualTo(Vitals.State.STOPPED);
        });
    }

    @Test
    void theApplicationMayReadPayloadsInAnotherWay() {
        JsonPayloads own = mock(JsonPayloads.class);
        Line.application()
                .withBean(JsonPayloads.class, () -> own)
                .run(context -> assertThat(JsonPayloads.chosen()).isSameAs(own));
    }

    @Test
    void payloadsGoByTheJacksonThatIsChosen() {
        office().withPropertyValues("brume.json=jackson3")
                .run(context ->
                        assertThat(context.getBean(JsonPayloads.class).name()).isEqualTo("jackson3"));
    }
}
