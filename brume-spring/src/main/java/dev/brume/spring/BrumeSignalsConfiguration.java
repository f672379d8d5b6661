package dev.brume.spring;

import dev.brume.Brume;
import dev.brume.micrometer.BrumeMetrics;
import dev.brume.otel.OtelTraces;
import dev.brume.spi.Traces;
import io.micrometer.core.instrument.binder.MeterBinder;
import io.opentelemetry.api.OpenTelemetry;
import org.springframework.beans.factory.ObjectProvider;
import org.springframework.beans.factory.config.ConfigurableListableBeanFactory;
import org.springframework.boot.autoconfigure.AutoConfiguration;
import org.springframework.boot.autoconfigure.condition.ConditionalOnBean;
import org.springframework.boot.autoconfigure.condition.ConditionalOnClass;
import org.springframework.boot.autoconfigure.condition.ConditionalOnMissingBean;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.context.annotation.Lazy;
import org.springframework.core.env.Environment;

/**
 * Metrics and traces, where the application has the modules for them.
 *
 * @since 0.1.0
 */
@AutoConfiguration(after = BrumeAutoConfiguration.class)
@ConditionalOnBean(BrumeSettings.class)
public class BrumeSignalsConfiguration {
    /** Called by Spring. */
    public BrumeSignalsConfiguration() {}

    @Bean
    SignalNotes brumeSignalNotes(ConfigurableListableBeanFactory beans, Environment environment) {
        return new SignalNotes(beans, environment);
    }

    /** Metrics by Micrometer. */
    @Configuration(proxyBeanMethods = false)
    @ConditionalOnClass({BrumeMetrics.class, MeterBinder.class})
    static class Metrics {
        @Bean(destroyMethod = "close")
        @ConditionalOnMissingBean
        BrumeMetrics brumeMetrics(Brume brume, BrumeSettings settings) {
            int most = settings.number("metrics-jobs", BrumeMetrics.MOST_JOBS);
            return SetupException.unlessRefused(() -> new BrumeMetrics(brume, most));
        }
    }

    /** Traces by OpenTelemetry. */
    @Configuration(proxyBeanMethods = false)
    @ConditionalOnClass({OtelTraces.class, OpenTelemetry.class})
    static class Tracing {
        @Bean
        @Lazy
        @ConditionalOnMissingBean
        Traces brumeTraces(ObjectProvider<OpenTelemetry> telemetry, BrumeSettings settings) {
            OpenTelemetry own = telemetry.getIfUnique();
            if (own == null) {
                return Traces.NONE;
            }
            OtelTraces traces = OtelTraces.of(own);
            return settings.flag("run-in-baggage", /* otherwise= */ false) ? traces.runInBaggage() : traces;
        }
    }
}
