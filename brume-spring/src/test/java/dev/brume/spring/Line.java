package dev.brume.spring;

import java.util.stream.Stream;
import org.springframework.boot.autoconfigure.AutoConfigurations;
import org.springframework.boot.test.context.runner.ApplicationContextRunner;

/** What the lines of Spring Boot name differently. */
final class Line {
    private static final String[] NAMES = {
        "org.springframework.boot.autoconfigure.jdbc.DataSourceAutoConfiguration",
        "org.springframework.boot.jdbc.autoconfigure.DataSourceAutoConfiguration",
        "org.springframework.boot.autoconfigure.jdbc.DataSourceTransactionManagerAutoConfiguration",
        "org.springframework.boot.jdbc.autoconfigure.DataSourceTransactionManagerAutoConfiguration",
        "org.springframework.boot.autoconfigure.jdbc.JdbcTemplateAutoConfiguration",
        "org.springframework.boot.jdbc.autoconfigure.JdbcTemplateAutoConfiguration",
        "org.springframework.boot.autoconfigure.transaction.TransactionAutoConfiguration",
        "org.springframework.boot.transaction.autoconfigure.TransactionAutoConfiguration",
        "org.springframework.boot.autoconfigure.context.PropertyPlaceholderAutoConfiguration",
        "org.springframework.boot.autoconfigure.aop.AopAutoConfiguration"
    };

    private static int count;

    private Line() {}

    private static Stream<Class<?>> there(String... names) {
        return Stream.of(names).flatMap(name -> {
            try {
                return Stream.<Class<?>>of(Class.forName(name));
            } catch (ClassNotFoundException otherLine) {
                return Stream.empty();
            }
        });
    }

    /** An application with a data source of its own, Spring's transactions, and Brume. */
    static ApplicationContextRunner application() {
        Stream<Class<?>> own = Stream.of(
                BrumeAutoConfiguration.class,
                BrumeJsonConfiguration.class,
                BrumeSignalsConfiguration.class,
                BrumeActuatorConfiguration.class);
        return new ApplicationContextRunner()
                .withConfiguration(
                        AutoConfigurations.of(Stream.concat(there(NAMES), own).toArray(Class<?>[]::new)))
                .withPropertyValues(
                        "spring.datasource.url=jdbc:h2:mem:harbour" + ++count + ";DB_CLOSE_DELAY=-1",
                        "spring.application.name=harbour",
                        "brume.poll=100ms",
                        "brume.json=jackson2");
    }
}
