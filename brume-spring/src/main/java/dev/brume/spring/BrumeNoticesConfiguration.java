package dev.brume.spring;

import dev.brume.notice.Sender;
import dev.brume.notices.Senders;
import org.springframework.boot.autoconfigure.AutoConfiguration;
import org.springframework.boot.autoconfigure.condition.ConditionalOnClass;
import org.springframework.boot.autoconfigure.condition.ConditionalOnMissingBean;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/**
 * Webhooks and mail of notices, where the application has the module for them. Any bean that is a {@link Sender} adds a way of sending; a bean that is a
 * {@link dev.brume.notice.Receiver} is handed the notices of channels that name it.
 *
 * @since 0.1.0
 */
@AutoConfiguration(before = BrumeAutoConfiguration.class)
public class BrumeNoticesConfiguration {
    /** Called by Spring. */
    public BrumeNoticesConfiguration() {}

    /** What reaches others over the network. */
    @Configuration(proxyBeanMethods = false)
    @ConditionalOnClass(Senders.class)
    static class Network {
        @Bean(destroyMethod = "close")
        @ConditionalOnMissingBean(name = "brumeWebhooks")
        Sender brumeWebhooks() {
            return Senders.webhooks();
        }

        @Bean(destroyMethod = "close")
        @ConditionalOnMissingBean(name = "brumeMail")
        Sender brumeMail() {
            return Senders.mail();
        }
    }
}
