package dev.brume.spring;

import java.util.List;
import java.util.Optional;
import javax.sql.DataSource;
import org.springframework.beans.factory.NoSuchBeanDefinitionException;
import org.springframework.beans.factory.ObjectProvider;
import org.springframework.beans.factory.config.ConfigurableListableBeanFactory;
import org.springframework.transaction.PlatformTransactionManager;
import org.springframework.transaction.support.ResourceTransactionManager;

/** Chooses among the beans of an application, which may have several of a kind. */
final class Choices {
    private final BrumeSettings settings;
    private final ConfigurableListableBeanFactory beans;
    private final ObjectProvider<DataSource> dataSources;
    private final ObjectProvider<PlatformTransactionManager> managers;

    Choices(
            BrumeSettings settings,
            ConfigurableListableBeanFactory beans,
            ObjectProvider<DataSource> dataSources,
            ObjectProvider<PlatformTransactionManager> managers) {
        this.settings = settings;
        this.beans = beans;
        this.dataSources = dataSources;
        this.managers = managers;
    }

    /** {@return the data source that Brume is to be in} */
    DataSource dataSource() {
        return chosen(
                "data-source",
                "data source",
                DataSource.class,
                Optional.ofNullable(dataSources.getIfUnique()),
                "set spring.datasource.url, or leave Brume out: brume.enabled=false");
    }

    /** {@return the transaction manager that works on that data source} */
    PlatformTransactionManager transactionManager() {
        DataSource own = dataSource();
        Optional<PlatformTransactionManager> only = Optional.ofNullable(managers.getIfUnique())
                .or(() ->
                        managers.stream().filter(manager -> isOf(manager, own)).findFirst());
        return chosen(
                "transaction-manager",
                "transaction manager",
                PlatformTransactionManager.class,
                only,
                "add spring-boot-starter-jdbc or another starter that brings one");
    }

    private static boolean isOf(PlatformTransactionManager manager, DataSource own) {
        return manager instanceof ResourceTransactionManager resource && resource.getResourceFactory() == own;
    }

    private <T> T chosen(String key, String what, Class<T> type, Optional<T> only, String wayOut) {
        Optional<String> named = settings.text(key);
        List<String> names = List.of(beans.getBeanNamesForType(type));
        if (named.isPresent()) {
            try {
                return beans.getBean(named.get(), type);
            } catch (NoSuchBeanDefinitionException e) {
                throw new SetupException(
                        "brume." + key + ": there is no " + what + " '" + named.get() + "'",
                        names.isEmpty() ? "there is none at all" : "there are " + String.join(", ", names));
            }
        }
        if (only.isEmpty() && names.isEmpty()) {
            throw new SetupException("there is no " + what + ", which Brume needs", wayOut);
        }
        return only.orElseThrow(() -> new SetupException(
                "there are several beans that are a " + what + " (" + String.join(", ", names)
                        + "), and none is primary",
                "choose one: brume." + key + "=" + names.get(0)));
    }
}
