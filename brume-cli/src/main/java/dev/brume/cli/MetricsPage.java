package dev.brume.cli;

import dev.brume.Brume;
import dev.brume.micrometer.BrumeMetrics;
import io.micrometer.prometheusmetrics.PrometheusConfig;
import io.micrometer.prometheusmetrics.PrometheusMeterRegistry;

/** The metrics of an instance, as text. */
final class MetricsPage {
    private static final String OPEN_METRICS = "application/openmetrics-text; version=1.0.0";

    private final PrometheusMeterRegistry registry = new PrometheusMeterRegistry(PrometheusConfig.DEFAULT);

    MetricsPage(Brume brume) {
        new BrumeMetrics(brume).bindTo(registry);
    }

    String text() {
        return registry.scrape(OPEN_METRICS);
    }
}
