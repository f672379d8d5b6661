package dev.brume.spring;

import dev.brume.spi.Traces;
import java.util.Optional;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.SmartInitializingSingleton;
import org.springframework.beans.factory.config.ConfigurableListableBeanFactory;
import org.springframework.core.env.Environment;
import org.springframework.util.ClassUtils;

/** Says once why something that seems to be wanted does not show: the module is there, and what it would speak to is not. */
final class SignalNotes implements SmartInitializingSingleton {
    private static final Logger LOG = LoggerFactory.getLogger(SignalNotes.class);
    private static final String ACTUATOR = "org.springframework.boot.actuate.endpoint.annotation.Endpoint";

    private final ConfigurableListableBeanFactory beans;
    private final Environment environment;

    SignalNotes(ConfigurableListableBeanFactory beans, Environment environment) {
        this.beans = beans;
        this.environment = environment;
    }

    @Override
    public void afterSingletonsInstantiated() {
        boolean actuator = type(ACTUATOR).isPresent();
        if (!actuator && asksForActuator()) {
            LOG.warn("management.* says something of Brume, and Actuator is not there: no health, no endpoint"
                    + " (add spring-boot-starter-actuator)");
        }
        if (environment.containsProperty("brume.http-path") && !beans.containsBean("brumeServlet")) {
            LOG.warn(
                    "brume.http-path is set, and nothing is served there: it takes brume-http, and a web application on servlets"
                            + " (add dev.brume:brume-http)");
        }
        if (type("dev.brume.micrometer.BrumeMetrics").isPresent()
                && hasNone("io.micrometer.core.instrument.MeterRegistry")) {
            LOG.info(
                    "no metrics: brume-micrometer is there, and no MeterRegistry (add spring-boot-starter-actuator, and a"
                            + " registry such as micrometer-registry-prometheus)");
        }
        boolean tracesByItself =
                !beans.containsBean("brumeTraces") && beans.getBeanNamesForType(Traces.class).length > 0;
        if (type("dev.brume.otel.OtelTraces").isPresent()
                && hasNone("io.opentelemetry.api.OpenTelemetry")
                && !tracesByItself) {
            LOG.info("no traces: brume-otel is there, and no bean that is an OpenTelemetry (make one, or one of"
                    + " OtelTraces.of(GlobalOpenTelemetry.get()) where an agent holds it)");
        }
    }

    private boolean asksForActuator() {
        return environment
                        .getProperty("management.endpoints.web.exposure.include", "")
                        .contains("brume")
                || environment
                        .getProperty("management.endpoint.health.group.readiness.include", "")
                        .contains("brume")
                || environment.containsProperty("management.endpoint.brume.access")
                || environment.containsProperty("management.health.brume.enabled");
    }

    /** Whether a class is there, and no bean of it. */
    private boolean hasNone(String name) {
        return type(name)
                .filter(each -> beans.getBeanNamesForType(each).length == 0)
                .isPresent();
    }

    private Optional<Class<?>> type(String name) {
        ClassLoader loader = beans.getBeanClassLoader();
        return ClassUtils.isPresent(name, loader)
                ? Optional.of(ClassUtils.resolveClassName(name, loader))
                : Optional.empty();
    }
}
