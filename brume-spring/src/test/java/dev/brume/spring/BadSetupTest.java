package dev.brume.spring;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.Brume;
import dev.brume.Handler;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.OneOffs;
import dev.brume.Run;
import dev.brume.history.History;
import java.net.URL;
import java.net.URLClassLoader;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.Map;
import javax.sql.DataSource;
import javax.tools.ToolProvider;
import org.h2.jdbcx.JdbcDataSource;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.api.io.TempDir;
import org.springframework.boot.autoconfigure.AutoConfigurations;
import org.springframework.boot.diagnostics.FailureAnalysis;
import org.springframework.boot.test.context.FilteredClassLoader;
import org.springframework.boot.test.context.runner.ApplicationContextRunner;
import org.springframework.boot.test.system.CapturedOutput;
import org.springframework.boot.test.system.OutputCaptureExtension;
import org.springframework.core.env.SystemEnvironmentPropertySource;
import org.springframework.jdbc.datasource.DataSourceTransactionManager;
import org.springframework.transaction.PlatformTransactionManager;
import org.springframework.transaction.support.TransactionTemplate;

/** What is set up so that it cannot work is told with the way out, before anything runs. */
@ExtendWith(OutputCaptureExtension.class)
class BadSetupTest {
    record Berth(int number) {}

    static class Reminders {
        @Handles("reminders")
        void remind() {}
    }

    static class Twice {
        @Handles("reminders")
        void again() {}
    }

    static class Scheduled {
        @Handles(value = "tide-tables", cron = "15 4 * * *", zone = "UTC")
        void tables() {}
    }

    static class BadCron {
        @Handles(value = "tide-tables", cron = "15 25 * * *", zone = "UTC", timeLimit = "soon")
        void tables() {}
    }

    static class Odd {
        @Handles("reminders")
        void remind(Run run, String payload, int what) {}
    }

    static class Typed {
        @Handles("moor")
        void moor(Berth berth) {}
    }

    static class Dues {
        @Handles("dues")
        @CommitsWithRun
        void dues() {}
    }

    @Handles("reminders")
    static class NoHandler {}

    private static DataSource source(String name) {
        JdbcDataSource source = new JdbcDataSource();
        source.setURL("jdbc:h2:mem:" + name + ";DB_CLOSE_DELAY=-1");
        return source;
    }

    private static void fails(ApplicationContextRunner application, String problem, String action) {
        application.run(context -> {
            assertThat(context).hasFailed();
            FailureAnalysis told = new SetupFailureAnalyzer().analyze(context.getStartupFailure());
            assertThat(told).as("%s", context.getStartupFailure()).isNotNull();
            assertThat(told.getDescription()).contains(problem);
            assertThat(told.getAction()).contains(action);
        });
    }

    @Test
    void severalDataSourcesNeedAChoice() {
        ApplicationContextRunner two = Line.application()
                .withBean("harbour", DataSource.class, () -> source("two1"))
                .withBean("archive", DataSource.class, () -> source("two2"));

        fails(
                two,
                "there are several beans that are a data source (harbour, archive), and none is primary",
                "Choose one: brume.data-source=harbour.");
        fails(
                two.withPropertyValues("brume.data-source=quay"),
                "there is no data source 'quay'",
                "There are harbour, archive.");
        two.withPropertyValues("brume.data-source=archive")
                .run(context -> assertThat(context).hasNotFailed());
    }

    @Test
    void aDataSourceIsNeeded() {
        fails(
                new ApplicationContextRunner().withConfiguration(AutoConfigurations.of(BrumeAutoConfiguration.class)),
                "there is no data source, which Brume needs",
                "Set spring.datasource.url, or leave Brume out: brume.enabled=false.");
    }

    @Test
    void aTransactionOfAnotherKindCannotBeJoined() {
        ApplicationContextRunner other = Line.application()
                .withBean(Reminders.class)
                .withBean(Dues.class)
                .withBean(
                        "other",
                        PlatformTransactionManager.class,
                        () -> new DataSourceTransactionManager(source("other")));

        other.run(context -> {
            TransactionTemplate transaction =
                    new TransactionTemplate(context.getBean(PlatformTransactionManager.class));
            OneOffs orders = context.getBean(OneOffs.class);
            assertThatThrownBy(() -> transaction.executeWithoutResult(
                            status -> orders.add(OneOff.of("reminders", "booking-17"))))
                    .isInstanceOf(SetupException.class)
                    .hasMessageContaining("not one of the data source that Brume is in")
                    .hasMessageContaining("brume.join-transactions=false");
            Brume brume = context.getBean(Brume.class);
            assertThat(brume.orders("anna", "")
                            .runNow(JobName.parse("dues"))
                            .await(Duration.ofSeconds(60))
                            .error()
                            .orElseThrow())
                    .contains("does not work on the data source that Brume is in")
                    .contains("brume.transaction-manager");
        });
        other.withPropertyValues("brume.join-transactions=false").run(context -> {
            TransactionTemplate transaction =
                    new TransactionTemplate(context.getBean(PlatformTransactionManager.class));
            transaction.executeWithoutResult(status -> assertThat(context.getBean(OneOffs.class)
                            .add(OneOff.of("reminders", "booking-17"))
                            .changed())
                    .isTrue());
        });
    }

    @Test
    void aJobWithoutAHandlerIsToldWithThoseThatThereAre() {
        fails(
                Line.application().withBean(Reminders.class).withPropertyValues("brume.jobs.reminder.when.every=1h"),
                "brume.jobs.reminder has no work, and no bean handles 'reminder'",
                "Did you mean reminders?");
        fails(
                Line.application().withPropertyValues("brume.jobs.reminder.when.every=1h"),
                "no bean handles 'reminder'",
                "@Handles(\"reminder\")");
    }

    @Test
    void eachJobIsDefinedInOnePlaceAndHandledByOneBean() {
        fails(
                Line.application().withBean(Scheduled.class).withPropertyValues("brume.jobs.tide-tables.when.every=1h"),
                "'tide-tables' is defined twice: in the properties brume.jobs.tide-tables and beside Scheduled.tables",
                "@Handles needs the name alone");
        fails(
                Line.application()
                        .withBean(Scheduled.class)
                        .withPropertyValues("brume.definitions=classpath:contradicts.yaml"),
                "'tide-tables' is defined twice: in contradicts.yaml and beside Scheduled.tables",
                "Leave it in one place");
        fails(
                Line.application().withBean(Reminders.class).withBean(Twice.class),
                "'reminders' is handled twice: by Reminders.remind and by Twice.again",
                "Leave one of them");
    }

    @Test
    void everythingThatIsWrongWithDefinitionsIsTold() {
        fails(
                Line.application()
                        .withBean(BadCron.class)
                        .withBean(Reminders.class)
                        .withPropertyValues("brume.jobs.reminders.whenn.every=1h"),
                "brume.jobs.reminders.whenn: unknown key 'whenn'",
                "Correct the definitions.");
        fails(Line.application().withBean(BadCron.class), "BadCron.tables.when.cron: ", "Correct the definitions.");
        fails(Line.application().withBean(BadCron.class), "BadCron.tables.timeLimit: ", "Correct the definitions.");
        fails(
                Line.application().withPropertyValues("brume.definitions=classpath:harbor.yaml"),
                "there is no class path resource [harbor.yaml]",
                "begins with classpath:");
        fails(
                Line.application()
                        .withClassLoader(new FilteredClassLoader("dev.brume.definitions"))
                        .withPropertyValues("brume.definitions=classpath:harbour.yaml"),
                "and nothing that reads it",
                "Add brume-definitions to the class path.");
    }

    @Test
    void handlersThatCannotBeCalledAreTold() {
        fails(
                Line.application().withBean(Odd.class),
                "has parameters that nobody could give it",
                "Let it take a Run, a payload");
        fails(Line.application().withBean(NoHandler.class), "is no " + Handler.class.getName(), "mark the method");
    }

    @Test
    void propertiesThatDoNotExistAndValuesThatAreNoneAreTold() {
        fails(
                Line.application().withPropertyValues("brume.leas=10s"),
                "brume.leas is no property of Brume's",
                "Did you mean brume.lease?");
        fails(Line.application().withPropertyValues("brume.lease=soon"), "brume.lease: ", "Correct that property.");
        fails(
                Line.application().withPropertyValues("brume.start=maybe"),
                "brume.start: 'maybe' is neither true nor false",
                "Correct");
        fails(Line.application().withPropertyValues("brume.zone=Atlantis"), "brume.zone: ", "Correct");
        fails(Line.application().withPropertyValues("brume.schema-changes=maybe"), "brume.schema-changes: ", "Correct");
    }

    @Test
    void ofTwoJacksonsOneIsToBeChosen() {
        ApplicationContextRunner both = Line.application().withBean(Typed.class).withPropertyValues("brume.json=");

        fails(both, "payloads could be read as JSON by jackson2 or by jackson3", "Choose: brume.json=jackson3");
        both.withClassLoader(new FilteredClassLoader("tools.jackson", "dev.brume.jackson3"))
                .run(context -> assertThat(context).hasNotFailed());
        fails(
                both.withClassLoader(new FilteredClassLoader("dev.brume.jackson2", "dev.brume.jackson3")),
                "payloads are to be read as JSON, and nothing here does it",
                "Add brume-jackson2 or brume-jackson3");
        fails(both.withPropertyValues("brume.json=gson"), "brume.json: 'gson' is not there", "There are jackson2");
        Line.application()
                .withBean(Reminders.class)
                .withPropertyValues("brume.json=")
                .run(context -> assertThat(context).as("where nobody reads any").hasNotFailed());
    }

    @Test
    void whatDoesNotShowForWantOfAPartnerIsTold(CapturedOutput output) {
        Line.application().run(context -> {
            assertThat(output).contains("no metrics: brume-micrometer is there, and no MeterRegistry");
            assertThat(output).contains("no traces: brume-otel is there, and no bean that is an OpenTelemetry");
            assertThat(output).doesNotContain("Actuator is not there");
        });
        Line.application()
                .withPropertyValues("brume.http-path=/brume")
                .run(context -> assertThat(output).contains("brume.http-path is set, and nothing is served there"));
        Line.application()
                .withClassLoader(
                        new FilteredClassLoader("org.springframework.boot.actuate", "org.springframework.boot.health"))
                .withPropertyValues("management.endpoints.web.exposure.include=health, brume")
                .run(
                        context -> assertThat(output)
                                .contains(
                                        "and Actuator is not there: no health, no endpoint (add spring-boot-starter-actuator)"));
    }

    /** As where an optional library is not there that a bean would speak to. */
    @Test
    void aBeanThatNamesAClassThatIsNotThereKeepsNobodyFromStarting(@TempDir Path folder, CapturedOutput output)
            throws Exception {
        Path missing = Files.writeString(folder.resolve("Missing.java"), "public class Missing {}");
        Path bean =
                Files.writeString(folder.resolve("Odd.java"), "public class Odd { public void look(Missing it) {} }");
        assertThat(ToolProvider.getSystemJavaCompiler()
                        .run(null, null, null, "-d", folder.toString(), missing.toString(), bean.toString()))
                .isZero();
        Files.delete(folder.resolve("Missing.class"));
        try (URLClassLoader loader = new URLClassLoader(
                new URL[] {folder.toUri().toURL()}, getClass().getClassLoader())) {
            Object odd = loader.loadClass("Odd").getConstructor().newInstance();

            Line.application()
                    .withBean(Reminders.class)
                    .withInitializer(context -> context.getBeanFactory().registerSingleton("odd", odd))
                    .run(context -> {
                        assertThat(context).hasNotFailed();
                        assertThat(output).contains("the bean 'odd' cannot be looked through for handlers");
                    });
        }
    }

    @Test
    void aJobThatNoVersionDefinesAnyMoreIsTold(CapturedOutput output) {
        ApplicationContextRunner harbour = Line.application().withBean(Reminders.class);
        harbour.withPropertyValues("brume.jobs.reminders.when.every=1h")
                .run(context -> assertThat(context).hasNotFailed());
        assertThat(output).doesNotContain("is not by this version");

        harbour.run(context -> assertThat(output)
                .contains("reminders was defined by 'harbour', and is not by this version;", "brume drop reminders"));
    }

    @Test
    void theEnvironmentMaySaySomethingElseOfAJob() {
        Line.application()
                .withBean(Reminders.class)
                .withPropertyValues("brume.jobs.reminders.when.every=1h")
                .withInitializer(context -> context.getEnvironment()
                        .getPropertySources()
                        .addFirst(new SystemEnvironmentPropertySource(
                                "test-systemEnvironment",
                                Map.of(
                                        "BRUME_JOBS_REMINDERS_ENABLED",
                                        "false",
                                        "BRUME_JOBS_REMINDERS_WHEN_EVERY",
                                        "2h"))))
                .run(context -> assertThat(context.getBean(History.class)
                                .job(JobName.parse("reminders"))
                                .orElseThrow()
                                .job()
                                .schedules()
                                .get(0)
                                .toString())
                        .contains("2h"));
    }
}
