/** Traces of runs, by OpenTelemetry. */
module dev.brume.otel {
    requires static transitive org.jspecify;
    requires transitive dev.brume.core;
    requires transitive io.opentelemetry.api;
    requires transitive io.opentelemetry.context;

    exports dev.brume.otel;
}
