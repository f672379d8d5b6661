package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import com.sun.net.httpserver.HttpServer;
import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.FollowUp;
import dev.brume.IfFailed;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.OneOffAnswer;
import dev.brume.Outcome;
import dev.brume.StoreException;
import dev.brume.Work;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.otel.OtelTraces;
import dev.brume.spi.Outlook;
import dev.brume.spi.Store;
import dev.brume.spi.Traces;
import dev.brume.spi.Transaction;
import dev.brume.testkit.WrappedStore;
import io.opentelemetry.api.OpenTelemetry;
import io.opentelemetry.api.common.AttributeKey;
import io.opentelemetry.api.trace.Span;
import io.opentelemetry.api.trace.StatusCode;
import io.opentelemetry.context.Scope;
import io.opentelemetry.sdk.OpenTelemetrySdk;
import io.opentelemetry.sdk.testing.exporter.InMemorySpanExporter;
import io.opentelemetry.sdk.trace.SdkTracerProvider;
import io.opentelemetry.sdk.trace.data.LinkData;
import io.opentelemetry.sdk.trace.data.SpanData;
import io.opentelemetry.sdk.trace.export.SimpleSpanProcessor;
import io.opentelemetry.sdk.trace.samplers.Sampler;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.sql.PreparedStatement;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.Function;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.mockito.Mockito;

/** Traces from what orders a run to its attempts and what follows them, on whatever instance those are. */
class TracesTest {
    private static final Duration LONG = Duration.ofSeconds(60);
    private static final JobName DUES = JobName.parse("dues");

    private final InMemorySpanExporter exporter = InMemorySpanExporter.create();
    private final OpenTelemetrySdk telemetry = OpenTelemetrySdk.builder()
            .setTracerProvider(SdkTracerProvider.builder()
                    .addSpanProcessor(SimpleSpanProcessor.create(exporter))
                    .build())
            .build();

    @AfterEach
    void closeTelemetry() {
        telemetry.close();
    }

    private Brume.Builder instance(Store store, String name) {
        return Brume.on(store)
                .instance(name)
                .poll(Duration.ofMillis(100))
                .withoutLog()
                .traces(OtelTraces.of(telemetry));
    }

    private List<SpanData> spans(String name) {
        return exporter.getFinishedSpanItems().stream()
                .filter(span -> span.getName().equals(name))
                .toList();
    }

    private SpanData span(String name) {
        assertThat(spans(name)).as(name).hasSize(1);
        return spans(name).get(0);
    }

    private static List<String> links(SpanData span) {
        return span.getLinks().stream()
                .map(LinkData::getSpanContext)
                .map(context -> context.getTraceId() + "-" + context.getSpanId())
                .toList();
    }

    private static String id(SpanData span) {
        return span.getTraceId() + "-" + span.getSpanId();
    }

    @ParameterizedTest
    @EnumSource
    void anOrderInARequestLeadsToTheRunAndToWhatFollowsIt(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume office = instance(fresh.store(), "office").build();
                Brume quay = instance(fresh.store(), "quay-1").build()) {
            AtomicInteger tries = new AtomicInteger();
            CountDownLatch posted = new CountDownLatch(1);
            quay.handler("dues", run -> {
                if (tries.incrementAndGet() == 1) {
                    throw new IllegalStateException("pin=1234 is wrong");
                }
                run.commit(connection -> {
                    try (PreparedStatement statement = connection.prepareStatement("select 1")) {
                        statement.execute();
                    }
                });
            });
            quay.handler("board", run -> posted.countDown());
            quay.define(Job.named("board").handler("board").build());
            quay.define(Job.named("dues")
                    .handler("dues")
                    .mask("pin")
                    .ifFailed(IfFailed.attempts(2, Duration.ZERO))
                    .followUp(FollowUp.On.SUCCESS, "board")
                    .build());
            quay.start();
            Span request = telemetry.getTracer("test").spanBuilder("POST /dues").startSpan();
            try (Scope scope = request.makeCurrent()) {
                assertThat(scope).isNotNull();
                OneOffAnswer answer = office.oneOffs().add(OneOff.of("dues", "booking-17"));
                assertThat(answer.run().orElseThrow().await(LONG).outcome()).isEqualTo(Outcome.SUCCEEDED);
            } finally {
                request.end();
            }
            assertThat(posted.await(60, TimeUnit.SECONDS)).isTrue();
            assertThat(quay.stop(LONG)).isTrue();

            List<SpanData> attempts = spans("brume run dues");
            SpanData first = attempts.get(0);
            SpanData second = attempts.get(1);
            assertThat(attempts).hasSize(2);
            assertThat(first.getParentSpanContext().isValid()).isFalse();
            assertThat(links(first)).hasSize(2).contains(id(span("POST /dues")));
            assertThat(spans("brume plan"))
                    .extracting(TracesTest::id)
                    .contains(links(first).get(1));
            assertThat(links(second)).containsAll(links(first)).contains(id(first));
            assertThat(first.getStatus().getStatusCode()).isEqualTo(StatusCode.ERROR);
            assertThat(first.getStatus().getDescription()).contains("pin=***").doesNotContain("1234");
            assertThat(first.getAttributes().asMap())
                    .containsEntry(AttributeKey.stringKey("brume.end"), "FAILED")
                    .containsEntry(AttributeKey.longKey("brume.attempt"), 1L)
                    .containsEntry(AttributeKey.stringKey("brume.origin"), "ONE_OFF");
            assertThat(second.getStatus().getStatusCode()).isEqualTo(StatusCode.UNSET);
            assertThat(links(span("brume run board"))).contains(id(second));

            RunView run = quay.history().runs(RunFilter.newest(5).of(DUES)).get(0);
            assertThat(run.attempts())
                    .extracting(attempt -> attempt.trace().orElseThrow().substring(3, 52))
                    .containsExactly(id(first), id(second));
        }
    }

    /** A store that can be cut off, as by a network that fails. */
    private static final class Cut extends WrappedStore {
        private volatile boolean cut;

        Cut(Store store) {
            super(store);
        }

        private void check() {
            if (cut) {
                throw new StoreException(StoreException.Trouble.UNREACHABLE, "the cable is cut", null);
            }
        }

        @Override
        public <T> T transact(Function<Transaction, T> steps) {
            check();
            return super.transact(steps);
        }

        @Override
        public Outlook outlook(Look look) {
            check();
            return super.outlook(look);
        }
    }

    @Test
    void theAttemptThatTakesOverIsLinkedToTheSamePlanning() throws Exception {
        try (Db.Fresh fresh = Db.POSTGRESQL.fresh();
                Cut cut = new Cut(fresh.store());
                Brume lost =
                        instance(cut, "quay-1").lease(Duration.ofSeconds(2)).build();
                Brume other = instance(fresh.store(), "quay-2")
                        .lease(Duration.ofSeconds(2))
                        .build()) {
            CountDownLatch begun = new CountDownLatch(1);
            CountDownLatch letGo = new CountDownLatch(1);
            lost.define(Job.named("dues"), run -> {
                begun.countDown();
                while (letGo.getCount() > 0) {
                    try {
                        letGo.await();
                    } catch (InterruptedException e) {
                        // It does not heed that it is told to stop.
                    }
                }
            });
            other.handler("dues", run -> {});
            lost.start();
            var ordered = other.orders("anna", "").runNow(DUES);
            assertThat(begun.await(60, TimeUnit.SECONDS)).isTrue();
            cut.cut = true;
            other.start();

            assertThat(ordered.await(LONG).outcome()).isEqualTo(Outcome.SUCCEEDED);
            cut.cut = false;
            letGo.countDown();
            lost.stop(LONG);

            List<SpanData> attempts = spans("brume run dues");
            assertThat(attempts).hasSize(2);
            assertThat(links(attempts.get(0)))
                    .isEqualTo(links(attempts.get(1)))
                    .containsExactly(id(span("brume plan")));
            assertThat(other.history().run(ordered.id()).orElseThrow().attempts())
                    .extracting(attempt -> attempt.trace().isPresent())
                    .containsExactly(false, true);
        }
    }

    @Test
    void programsRequestsAndHandlersAreGivenTheTraceAndTheRunOnlyIfThatIsAskedFor() throws Exception {
        BlockingQueue<Map<String, List<String>>> headers = new LinkedBlockingQueue<>();
        HttpServer server = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 0);
        server.createContext("/", exchange -> {
            headers.add(exchange.getRequestHeaders());
            exchange.sendResponseHeaders(204, -1);
            exchange.close();
        });
        server.start();
        try (Db.Fresh fresh = Db.H2.fresh()) {
            for (boolean asked : List.of(false, true)) {
                OtelTraces traces = OtelTraces.of(telemetry);
                try (Brume brume = instance(fresh.store(), "quay-" + asked)
                        .takesPrograms()
                        .takesRequests()
                        .traces(asked ? traces.runInBaggage() : traces)
                        .build()) {
                    brume.define(Job.named("program")
                            .program("sh", "-c", "echo $TRACEPARENT $BAGGAGE")
                            .build());
                    brume.define(Job.named("request")
                            .work(new Work.Request(
                                    "GET",
                                    "http://127.0.0.1:" + server.getAddress().getPort() + "/",
                                    Map.of(),
                                    Optional.empty(),
                                    Set.of()))
                            .build());
                    BlockingQueue<String> seen = new LinkedBlockingQueue<>();
                    brume.define(
                            Job.named("handler"),
                            run -> seen.add(Span.current().getSpanContext().getTraceId()));
                    brume.start();
                    exporter.reset();
                    long program = brume.orders("anna", "")
                            .runNow(JobName.parse("program"))
                            .id();
                    for (String name : List.of("program", "request", "handler")) {
                        assertThat(brume.orders("anna", "")
                                        .runNow(JobName.parse(name))
                                        .await(LONG)
                                        .outcome())
                                .isEqualTo(Outcome.SUCCEEDED);
                    }

                    String printed = brume.history()
                            .run(program)
                            .orElseThrow()
                            .outputs()
                            .get(1)
                            .text();
                    assertThat(spans("brume run program"))
                            .extracting(SpanData::getTraceId)
                            .contains(printed.substring(3, 35));
                    assertThat(printed.contains("brume.run=" + program)).isEqualTo(asked);
                    Map<String, List<String>> sent = headers.take();
                    assertThat(sent.get("Traceparent").get(0))
                            .contains(span("brume run request").getTraceId());
                    assertThat(sent.containsKey("Baggage")).isEqualTo(asked);
                    assertThat(seen.take()).isEqualTo(span("brume run handler").getTraceId());
                }
            }
        } finally {
            server.stop(0);
        }
    }

    @Test
    void whatIsNotSampledIsNotKeptAndTracersThatThrowCostNothingElse() throws Exception {
        OpenTelemetry silent = OpenTelemetrySdk.builder()
                .setTracerProvider(SdkTracerProvider.builder()
                        .setSampler(Sampler.alwaysOff())
                        .build())
                .build();
        try (Db.Fresh fresh = Db.H2.fresh()) {
            for (OpenTelemetry one : List.of(silent, OpenTelemetry.noop())) {
                try (Brume brume = instance(fresh.store(), "quay")
                        .traces(OtelTraces.of(one))
                        .build()) {
                    brume.define(
                            Job.named("dues"), run -> assertThat(run.traces()).isEmpty());
                    brume.start();
                    var result = brume.orders("anna", "").runNow(DUES).await(LONG);

                    assertThat(result.outcome()).isEqualTo(Outcome.SUCCEEDED);
                }
            }
            Traces broken = Mockito.mock(Traces.class, call -> {
                throw new IllegalStateException("no tracer");
            });
            Traces silentlyBroken = Mockito.mock(Traces.class, call -> null);
            for (Traces one : List.of(broken, silentlyBroken)) {
                List<Event> problems = new CopyOnWriteArrayList<>();
                try (Brume brume = instance(fresh.store(), "quay")
                        .traces(one)
                        .engineListener(problems::add)
                        .build()) {
                    brume.define(Job.named("dues"), run -> {});
                    brume.start();

                    assertThat(brume.orders("anna", "").runNow(DUES).await(LONG).outcome())
                            .isEqualTo(Outcome.SUCCEEDED);
                    assertThat(problems)
                            .filteredOn(event -> event.text().startsWith("runs cannot be traced: "))
                            .as("told once, and not at every run")
                            .hasSize(1);
                }
            }
        }
    }
}
