package dev.brume.spring;

import dev.brume.JsonPayloads;
import dev.brume.jackson2.Jackson2Payloads;
import dev.brume.jackson3.Jackson3Payloads;
import java.util.List;
import java.util.function.Supplier;
import org.springframework.beans.factory.InitializingBean;
import org.springframework.beans.factory.ListableBeanFactory;
import org.springframework.beans.factory.ObjectProvider;
import org.springframework.boot.autoconfigure.AutoConfiguration;
import org.springframework.boot.autoconfigure.condition.ConditionalOnBean;
import org.springframework.boot.autoconfigure.condition.ConditionalOnClass;
import org.springframework.boot.autoconfigure.condition.ConditionalOnMissingBean;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.context.annotation.Lazy;

/**
 * Has payloads read and written by the application's own JSON mapper.
 *
 * @since 0.1.0
 */
@AutoConfiguration(
        after = BrumeAutoConfiguration.class,
        afterName = {
            "org.springframework.boot.autoconfigure.jackson.JacksonAutoConfiguration",
            "org.springframework.boot.jackson.autoconfigure.JacksonAutoConfiguration",
            "org.springframework.boot.jackson2.autoconfigure.Jackson2AutoConfiguration"
        })
@ConditionalOnBean(BrumeSettings.class)
public class BrumeJsonConfiguration {
    private static final String PAYLOADS = "brumePayloads";

    /** Called by Spring. */
    public BrumeJsonConfiguration() {}

    /** One of the libraries, with what the application has of it. */
    record Candidate(String name, Supplier<JsonPayloads> payloads) {}

    /** What the application has of Jackson 2. */
    @Configuration(proxyBeanMethods = false)
    @ConditionalOnClass({Jackson2Payloads.class, com.fasterxml.jackson.databind.ObjectMapper.class})
    static class Jackson2 {
        @Bean
        Candidate brumeJackson2(ObjectProvider<com.fasterxml.jackson.databind.ObjectMapper> mapper) {
            return new Candidate("jackson2", () -> {
                com.fasterxml.jackson.databind.ObjectMapper own = mapper.getIfUnique();
                return own == null ? new Jackson2Payloads() : new Jackson2Payloads(own);
            });
        }
    }

    /** What the application has of Jackson 3. */
    @Configuration(proxyBeanMethods = false)
    @ConditionalOnClass({Jackson3Payloads.class, tools.jackson.databind.json.JsonMapper.class})
    static class Jackson3 {
        @Bean
        Candidate brumeJackson3(ObjectProvider<tools.jackson.databind.json.JsonMapper> mapper) {
            return new Candidate("jackson3", () -> {
                tools.jackson.databind.json.JsonMapper own = mapper.getIfUnique();
                return own == null ? new Jackson3Payloads() : new Jackson3Payloads(own);
            });
        }
    }

    /** Where there is no question which, types that are made without Spring go by it too. */
    @Bean
    InitializingBean brumeJsonChoice(
            BrumeSettings settings,
            ListableBeanFactory beans,
            ObjectProvider<Candidate> all,
            ObjectProvider<JsonPayloads> payloads) {
        return () -> {
            boolean isOwn = !beans.containsBeanDefinition(PAYLOADS);
            if (isOwn || settings.text("json").isPresent() || all.stream().count() == 1) {
                JsonPayloads.choose(payloads.getObject());
            }
        };
    }

    /** Made when something asks for it, so that an application without such payloads need not choose. */
    @Bean(PAYLOADS)
    @Lazy
    @ConditionalOnMissingBean
    JsonPayloads brumePayloads(BrumeSettings settings, ObjectProvider<Candidate> all) {
        List<Candidate> candidates = all.orderedStream().toList();
        String named = settings.text("json").orElse("");
        List<Candidate> those = candidates.stream()
                .filter(each -> named.isEmpty() || each.name.equals(named))
                .toList();
        if (those.size() > 1) {
            throw new SetupException(
                    "payloads could be read as JSON by jackson2 or by jackson3",
                    "choose: brume.json=jackson3, or leave one of the modules out");
        }
        if (candidates.isEmpty()) {
            throw new SetupException(
                    "payloads are to be read as JSON, and nothing here does it",
                    "add brume-jackson2 or brume-jackson3, whichever Jackson the application has, or make a bean of another JsonPayloads");
        }
        if (those.isEmpty()) {
            throw new SetupException(
                    "brume.json: '" + named + "' is not there",
                    "there are jackson2 (with brume-jackson2) and jackson3 (with brume-jackson3)");
        }
        return those.get(0).payloads.get();
    }
}
