package dev.brume.spring;

import dev.brume.Brume;
import dev.brume.insight.health.InstanceHealth;
import org.springframework.boot.actuate.autoconfigure.endpoint.condition.ConditionalOnAvailableEndpoint;
import org.springframework.boot.actuate.endpoint.annotation.Endpoint;
import org.springframework.boot.autoconfigure.AutoConfiguration;
import org.springframework.boot.autoconfigure.condition.ConditionalOnBean;
import org.springframework.boot.autoconfigure.condition.ConditionalOnClass;
import org.springframework.boot.autoconfigure.condition.ConditionalOnMissingBean;
import org.springframework.boot.autoconfigure.condition.ConditionalOnProperty;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/**
 * What Actuator shows, where the application has it: an endpoint, and whether the instance is ready ({@code brume}) and live ({@code brumeLive}), for health
 * groups.
 *
 * @since 0.1.0
 */
@AutoConfiguration(after = BrumeAutoConfiguration.class)
@ConditionalOnBean(BrumeSettings.class)
@ConditionalOnClass({Endpoint.class, ConditionalOnAvailableEndpoint.class})
public class BrumeActuatorConfiguration {
    private static final String INDICATOR = "management.health.brume.enabled";
    private static final String FINDINGS = "findings";

    /** Called by Spring. */
    public BrumeActuatorConfiguration() {}

    @Bean
    @ConditionalOnMissingBean
    @ConditionalOnAvailableEndpoint(endpoint = BrumeEndpoint.class)
    BrumeEndpoint brumeEndpoint(Brume brume) {
        return new BrumeEndpoint(brume);
    }

    /** Health as Spring Boot 3 has it. */
    @Configuration(proxyBeanMethods = false)
    @ConditionalOnClass(name = "org.springframework.boot.actuate.health.HealthIndicator")
    @ConditionalOnProperty(name = INDICATOR, havingValue = "true", matchIfMissing = true)
    static class Boot3 {
        @Bean
        org.springframework.boot.actuate.health.HealthIndicator brumeHealthIndicator(Brume brume) {
            return () ->
                    health(InstanceHealth.ready(brume), org.springframework.boot.actuate.health.Health.outOfService());
        }

        @Bean
        org.springframework.boot.actuate.health.HealthIndicator brumeLiveHealthIndicator(Brume brume) {
            return () -> health(InstanceHealth.live(brume), org.springframework.boot.actuate.health.Health.down());
        }

        private static org.springframework.boot.actuate.health.Health health(
                InstanceHealth found, org.springframework.boot.actuate.health.Health.Builder unwell) {
            return (found.well() ? org.springframework.boot.actuate.health.Health.up() : unwell)
                    .withDetail(FINDINGS, BrumeEndpoint.findings(found.findings()))
                    .build();
        }
    }

    /** Health as Spring Boot 4 has it. */
    @Configuration(proxyBeanMethods = false)
    @ConditionalOnClass(name = "org.springframework.boot.health.contributor.HealthIndicator")
    @ConditionalOnProperty(name = INDICATOR, havingValue = "true", matchIfMissing = true)
    static class Boot4 {
        @Bean
        org.springframework.boot.health.contributor.HealthIndicator brumeHealthIndicator(Brume brume) {
            return () -> health(
                    InstanceHealth.ready(brume), org.springframework.boot.health.contributor.Health.outOfService());
        }

        @Bean
        org.springframework.boot.health.contributor.HealthIndicator brumeLiveHealthIndicator(Brume brume) {
            return () -> health(InstanceHealth.live(brume), org.springframework.boot.health.contributor.Health.down());
        }

        private static org.springframework.boot.health.contributor.Health health(
                InstanceHealth found, org.springframework.boot.health.contributor.Health.Builder unwell) {
            return (found.well() ? org.springframework.boot.health.contributor.Health.up() : unwell)
                    .withDetail(FINDINGS, BrumeEndpoint.findings(found.findings()))
                    .build();
        }
    }
}
