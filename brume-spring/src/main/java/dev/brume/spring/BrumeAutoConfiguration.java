package dev.brume.spring;

import dev.brume.Brume;
import dev.brume.JsonPayloads;
import dev.brume.OneOffs;
import dev.brume.OwnTransaction;
import dev.brume.history.History;
import dev.brume.insight.watch.Vigil;
import dev.brume.jdbc.JdbcStore;
import dev.brume.notice.Sender;
import dev.brume.notice.Watch;
import dev.brume.spi.Store;
import dev.brume.spi.Traces;
import java.util.function.Supplier;
import javax.sql.DataSource;
import org.springframework.beans.factory.ObjectProvider;
import org.springframework.beans.factory.config.ConfigurableListableBeanFactory;
import org.springframework.beans.factory.config.CustomScopeConfigurer;
import org.springframework.boot.autoconfigure.AutoConfiguration;
import org.springframework.boot.autoconfigure.condition.ConditionalOnClass;
import org.springframework.boot.autoconfigure.condition.ConditionalOnMissingBean;
import org.springframework.boot.autoconfigure.condition.ConditionalOnProperty;
import org.springframework.boot.info.BuildProperties;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Lazy;
import org.springframework.core.env.Environment;
import org.springframework.core.io.ResourceLoader;
import org.springframework.jdbc.datasource.ConnectionHolder;
import org.springframework.transaction.PlatformTransactionManager;

/**
 * Sets up Brume on the application's data source: an instance, its store, orders that join Spring's transactions, and a life cycle. Whatever of these the
 * application makes itself is left to it.
 *
 * @since 0.1.0
 */
@AutoConfiguration(
        afterName = {
            "org.springframework.boot.autoconfigure.jdbc.DataSourceAutoConfiguration",
            "org.springframework.boot.jdbc.autoconfigure.DataSourceAutoConfiguration",
            "org.springframework.boot.autoconfigure.jdbc.DataSourceTransactionManagerAutoConfiguration",
            "org.springframework.boot.jdbc.autoconfigure.DataSourceTransactionManagerAutoConfiguration",
            "org.springframework.boot.autoconfigure.info.ProjectInfoAutoConfiguration"
        })
@ConditionalOnClass({JdbcStore.class, ConnectionHolder.class})
@ConditionalOnProperty(name = "brume.enabled", havingValue = "true", matchIfMissing = true)
public class BrumeAutoConfiguration {
    /** Called by Spring. */
    public BrumeAutoConfiguration() {}

    @Bean
    static RunScope brumeRunScope() {
        return new RunScope();
    }

    @Bean
    static CustomScopeConfigurer brumeRunScopeConfigurer(RunScope scope) {
        CustomScopeConfigurer configurer = new CustomScopeConfigurer();
        configurer.addScope(RunScope.NAME, scope);
        return configurer;
    }

    @Bean
    BrumeSettings brumeSettings(Environment environment) {
        return new BrumeSettings(environment);
    }

    @Bean
    @ConditionalOnMissingBean({Store.class, Brume.class})
    JdbcStore brumeStore(BrumeSettings settings, Choices choices) {
        JdbcStore.Builder builder = JdbcStore.builder(choices.dataSource());
        return SetupException.unlessRefused(() -> builder.configure(settings.configuration()))
                .build();
    }

    @Bean
    Choices brumeChoices(
            BrumeSettings settings,
            ConfigurableListableBeanFactory beans,
            ObjectProvider<DataSource> dataSources,
            ObjectProvider<PlatformTransactionManager> managers) {
        return new Choices(settings, beans, dataSources, managers);
    }

    @Bean
    @Lazy
    @ConditionalOnMissingBean
    SpringTransactions brumeSpringTransactions(BrumeSettings settings, Choices choices) {
        return new SpringTransactions(
                choices.dataSource(),
                choices::transactionManager,
                settings.flag("join-transactions", /* otherwise= */ true));
    }

    @Bean
    @ConditionalOnMissingBean
    RunTransactions runTransactions(ObjectProvider<SpringTransactions> transactions) {
        return new RunTransactions(asked(transactions));
    }

    /** Asked for when the first is needed: an application without a data source has none. */
    private static OwnTransaction asked(ObjectProvider<SpringTransactions> transactions) {
        return (limit, work) -> transactions.getObject().carryOut(limit, work);
    }

    @Bean(destroyMethod = "close")
    @ConditionalOnMissingBean
    Brume brume(
            Store store,
            BrumeSettings settings,
            ObjectProvider<SpringTransactions> transactions,
            ObjectProvider<Traces> traces,
            ObjectProvider<Sender> senders,
            ObjectProvider<Watch> watch,
            ObjectProvider<BuildProperties> build) {
        Brume.Builder builder = Brume.on(store);
        build.ifAvailable(properties -> {
            if (properties.getTime() != null) {
                builder.builtAt(properties.getTime());
            }
        });
        SetupException.unlessRefused(() -> builder.configure(settings.configuration()));
        if (store instanceof JdbcStore) {
            builder.joining(transactions.getObject());
        }
        traces.ifAvailable(builder::traces);
        senders.orderedStream().forEach(builder::sending);
        builder.watching(watch.getIfAvailable(Vigil::new));
        return builder.build();
    }

    @Bean
    @ConditionalOnMissingBean
    OneOffs brumeOneOffs(Brume brume) {
        return brume.oneOffs();
    }

    @Bean
    @ConditionalOnMissingBean
    History brumeHistory(Brume brume) {
        return brume.history();
    }

    @Bean
    BrumeSetup brumeSetup(
            Brume brume,
            BrumeSettings settings,
            RunScope scope,
            ObjectProvider<SpringTransactions> transactions,
            ObjectProvider<JsonPayloads> payloads,
            ConfigurableListableBeanFactory beans,
            ResourceLoader resources) {
        Supplier<JsonPayloads> json = () -> payloads.getIfAvailable(JsonPayloads::chosen);
        return new BrumeSetup(brume, settings, scope, asked(transactions), json, beans, resources);
    }

    @Bean
    @ConditionalOnMissingBean
    BrumeLifecycle brumeLifecycle(Brume brume, BrumeSettings settings) {
        return new BrumeLifecycle(brume, settings.flag("start", /* otherwise= */ true));
    }
}
