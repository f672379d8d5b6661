package dev.brume.otel;

import dev.brume.AttemptEnd;
import dev.brume.Run;
import dev.brume.spi.Traces;
import io.opentelemetry.api.OpenTelemetry;
import io.opentelemetry.api.baggage.Baggage;
import io.opentelemetry.api.baggage.propagation.W3CBaggagePropagator;
import io.opentelemetry.api.common.AttributeKey;
import io.opentelemetry.api.trace.Span;
import io.opentelemetry.api.trace.SpanBuilder;
import io.opentelemetry.api.trace.SpanContext;
import io.opentelemetry.api.trace.SpanKind;
import io.opentelemetry.api.trace.StatusCode;
import io.opentelemetry.api.trace.Tracer;
import io.opentelemetry.api.trace.propagation.W3CTraceContextPropagator;
import io.opentelemetry.context.Context;
import io.opentelemetry.context.Scope;
import io.opentelemetry.context.propagation.TextMapGetter;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/**
 * Traces runs by OpenTelemetry: a span for each planning that makes runs, and one for each attempt, on the thread that carries it out.
 *
 * <p>The span of an attempt begins a trace of its own, linked to its planning, to what ordered the run, to the attempt that it follows and to its own
 * earlier attempts, on whatever instance those were. What its work calls belongs to it. Contexts that are not sampled are not kept with runs. Safe for
 * use by many threads.
 *
 * @see dev.brume.Brume.Builder#traces
 * @since 0.1.0
 */
public final class OtelTraces implements Traces {
    private static final String SCOPE = "dev.brume";
    private static final String TRACEPARENT = "traceparent";
    private static final String RUN_IN_BAGGAGE = "brume.run";
    private static final AttributeKey<String> JOB = AttributeKey.stringKey("brume.job");
    private static final AttributeKey<String> RUN = AttributeKey.stringKey("brume.run");
    private static final AttributeKey<Long> ATTEMPT = AttributeKey.longKey("brume.attempt");
    private static final AttributeKey<String> FENCE = AttributeKey.stringKey("brume.fence");
    private static final AttributeKey<String> ORIGIN = AttributeKey.stringKey("brume.origin");
    private static final AttributeKey<String> PLANNED = AttributeKey.stringKey("brume.planned");
    private static final AttributeKey<String> END = AttributeKey.stringKey("brume.end");
    private static final AttributeKey<Long> RUNS = AttributeKey.longKey("brume.runs");

    private static final TextMapGetter<String> OF_TEXT = new TextMapGetter<>() {
        @Override
        public Iterable<String> keys(String traceparent) {
            return Set.of(TRACEPARENT);
        }

        @Override
        public @Nullable String get(@Nullable String traceparent, String key) {
            return key.equals(TRACEPARENT) ? traceparent : null;
        }
    };

    private final Tracer tracer;
    private final boolean runInBaggage;

    private OtelTraces(Tracer tracer, boolean runInBaggage) {
        this.tracer = tracer;
        this.runInBaggage = runInBaggage;
    }

    /** {@return what traces by an application's OpenTelemetry} */
    public static OtelTraces of(OpenTelemetry telemetry) {
        return new OtelTraces(telemetry.getTracer(SCOPE), /* runInBaggage= */ false);
    }

    /**
     * {@return the same, with the run's id in the baggage, under {@code brume.run}} Requests and programs get it too, as does whatever the work calls,
     * inside and outside the company.
     */
    public OtelTraces runInBaggage() {
        return new OtelTraces(tracer, /* runInBaggage= */ true);
    }

    @Override
    public Optional<String> here() {
        return kept(Span.current().getSpanContext());
    }

    private static Optional<String> kept(SpanContext context) {
        return context.isValid() && context.isSampled()
                ? Optional.of("00-" + context.getTraceId() + "-" + context.getSpanId() + "-"
                        + context.getTraceFlags().asHex())
                : Optional.empty();
    }

    @Override
    public Map<String, String> passedOn() {
        Map<String, String> fields = new TreeMap<>();
        W3CTraceContextPropagator.getInstance().inject(Context.current(), fields, OtelTraces::set);
        if (runInBaggage) {
            W3CBaggagePropagator.getInstance().inject(Context.current(), fields, OtelTraces::set);
        }
        return fields;
    }

    private static void set(@Nullable Map<String, String> fields, String name, String value) {
        if (fields != null) {
            fields.put(name, value);
        }
    }

    @Override
    public Planning planning() {
        return new LazySpan();
    }

    /** Most plannings make nothing, and need no span. */
    private final class LazySpan implements Planning {
        private @Nullable Span span;

        @Override
        public Optional<String> context() {
            Span begun = span;
            if (begun == null) {
                begun = tracer.spanBuilder("brume plan")
                        .setSpanKind(SpanKind.PRODUCER)
                        .startSpan();
                span = begun;
            }
            return kept(begun.getSpanContext());
        }

        @Override
        public void committed(int runs) {
            if (span != null) {
                span.setAttribute(RUNS, (long) runs);
                span.end();
            }
        }
    }

    /** The scope ends with the attempt. */
    @SuppressWarnings("MustBeClosed")
    @Override
    public Attempted attempt(Run run) {
        SpanBuilder builder = tracer.spanBuilder("brume run " + run.job())
                .setNoParent()
                .setSpanKind(SpanKind.CONSUMER)
                .setAttribute(JOB, run.job().toString())
                .setAttribute(RUN, Long.toString(run.id()))
                .setAttribute(ATTEMPT, (long) run.attempt())
                .setAttribute(FENCE, Long.toString(run.fence()))
                .setAttribute(ORIGIN, run.origin().name())
                .setAttribute(PLANNED, run.planned().toString());
        run.traces().stream().map(OtelTraces::read).filter(SpanContext::isValid).forEach(builder::addLink);
        Span span = builder.startSpan();
        Context context = Context.root().with(span);
        Scope scope = (runInBaggage
                        ? context.with(Baggage.builder()
                                .put(RUN_IN_BAGGAGE, Long.toString(run.id()))
                                .build())
                        : context)
                .makeCurrent();
        return (end, error) -> {
            try {
                ended(span, end, error);
            } finally {
                scope.close();
            }
        };
    }

    private static void ended(Span span, AttemptEnd end, Optional<String> error) {
        span.setAttribute(END, end.name());
        if (end == AttemptEnd.FAILED || end == AttemptEnd.TIMED_OUT) {
            span.setStatus(StatusCode.ERROR, error.map(OtelTraces::firstLine).orElse(""));
        }
        span.end();
    }

    private static String firstLine(String text) {
        return text.lines().findFirst().orElse("");
    }

    private static SpanContext read(String traceparent) {
        Context read = W3CTraceContextPropagator.getInstance().extract(Context.root(), traceparent, OF_TEXT);
        return Span.fromContext(read).getSpanContext();
    }
}
