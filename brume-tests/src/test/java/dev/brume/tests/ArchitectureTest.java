package dev.brume.tests;

import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.classes;
import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;
import static com.tngtech.archunit.library.Architectures.layeredArchitecture;
import static com.tngtech.archunit.library.dependencies.SlicesRuleDefinition.slices;

import com.tngtech.archunit.base.DescribedPredicate;
import com.tngtech.archunit.core.domain.JavaClass;
import com.tngtech.archunit.core.importer.ImportOption;
import com.tngtech.archunit.junit.AnalyzeClasses;
import com.tngtech.archunit.junit.ArchTest;
import com.tngtech.archunit.lang.ArchRule;
import java.sql.Connection;

/** Who may know whom. */
@AnalyzeClasses(packages = "dev.brume", importOptions = ImportOption.DoNotIncludeTests.class)
class ArchitectureTest {
    @ArchTest
    static final ArchRule modulesUseOnlyThoseBeforeThem = layeredArchitecture()
            .consideringOnlyDependenciesInLayers()
            .layer("schedule")
            .definedBy("dev.brume.schedule..")
            .layer("ical")
            .definedBy("dev.brume.ical..")
            .layer("core")
            .definedBy(
                    "dev.brume", "dev.brume.history..", "dev.brume.notice..", "dev.brume.spi..", "dev.brume.internal..")
            .layer("memory")
            .definedBy("dev.brume.memory..")
            .layer("insight")
            .definedBy("dev.brume.insight..")
            .layer("jdbc")
            .definedBy("dev.brume.jdbc..")
            .layer("definitions")
            .definedBy("dev.brume.definitions..")
            .layer("notices")
            .definedBy("dev.brume.notices..")
            .layer("jackson2")
            .definedBy("dev.brume.jackson2..")
            .layer("jackson3")
            .definedBy("dev.brume.jackson3..")
            .layer("micrometer")
            .definedBy("dev.brume.micrometer..")
            .layer("otel")
            .definedBy("dev.brume.otel..")
            .layer("http")
            .definedBy("dev.brume.http..")
            .layer("server")
            .definedBy("dev.brume.server..")
            .layer("spring")
            .definedBy("dev.brume.spring..")
            .layer("cli")
            .definedBy("dev.brume.cli..")
            .layer("testkit")
            .definedBy("dev.brume.testkit..")
            .layer("simulator")
            .definedBy("dev.brume.simulator..")
            .layer("examples")
            .definedBy("dev.brume.examples..")
            .whereLayer("schedule")
            .mayNotAccessAnyLayer()
            .whereLayer("ical")
            .mayOnlyAccessLayers("schedule")
            .whereLayer("core")
            .mayOnlyAccessLayers("schedule")
            .whereLayer("memory")
            .mayOnlyAccessLayers("schedule", "core")
            .whereLayer("insight")
            .mayOnlyAccessLayers("schedule", "core", "memory")
            .whereLayer("jdbc")
            .mayOnlyAccessLayers("schedule", "core")
            .whereLayer("definitions")
            .mayOnlyAccessLayers("schedule", "ical", "core", "insight")
            .whereLayer("notices")
            .mayOnlyAccessLayers("schedule", "core")
            .whereLayer("jackson2")
            .mayOnlyAccessLayers("core")
            .whereLayer("jackson3")
            .mayOnlyAccessLayers("core")
            .whereLayer("micrometer")
            .mayOnlyAccessLayers("core")
            .whereLayer("otel")
            .mayOnlyAccessLayers("core")
            .whereLayer("http")
            .mayOnlyAccessLayers("schedule", "core", "memory", "insight", "definitions")
            .whereLayer("server")
            .mayOnlyAccessLayers("http")
            .whereLayer("spring")
            .mayOnlyAccessLayers(
                    "schedule",
                    "core",
                    "insight",
                    "jdbc",
                    "definitions",
                    "notices",
                    "http",
                    "jackson2",
                    "jackson3",
                    "micrometer",
                    "otel",
                    "testkit")
            .whereLayer("cli")
            .mayOnlyAccessLayers(
                    "schedule",
                    "ical",
                    "core",
                    "insight",
                    "jdbc",
                    "definitions",
                    "notices",
                    "micrometer",
                    "http",
                    "server")
            .whereLayer("testkit")
            .mayOnlyAccessLayers("schedule", "core", "memory")
            .whereLayer("simulator")
            .mayOnlyAccessLayers("schedule", "core", "memory", "insight", "testkit")
            .whereLayer("examples")
            .mayOnlyAccessLayers("schedule", "core", "memory", "jdbc", "definitions");

    @ArchTest
    static final ArchRule everyClassIsOfALayer = classes()
            .should()
            .resideInAnyPackage(
                    "dev.brume",
                    "dev.brume.history..",
                    "dev.brume.notice..",
                    "dev.brume.spi..",
                    "dev.brume.internal..",
                    "dev.brume.schedule..",
                    "dev.brume.ical..",
                    "dev.brume.memory..",
                    "dev.brume.insight..",
                    "dev.brume.jdbc..",
                    "dev.brume.definitions..",
                    "dev.brume.notices..",
                    "dev.brume.jackson2..",
                    "dev.brume.jackson3..",
                    "dev.brume.micrometer..",
                    "dev.brume.otel..",
                    "dev.brume.http..",
                    "dev.brume.server..",
                    "dev.brume.spring..",
                    "dev.brume.cli..",
                    "dev.brume.testkit..",
                    "dev.brume.simulator..",
                    "dev.brume.examples..");

    /** The values of the interface: what they are made of is there for all; only those that begin something, and what they hand out, know how it is done. */
    @ArchTest
    static final ArchRule valuesOfTheInterfaceKnowNothingBehindIt = noClasses()
            .that()
            .resideInAPackage("dev.brume")
            .and(DescribedPredicate.not(DescribedPredicate.describe(
                    "Access, Brume, Orders, what orders are made of, OneOffs and the handles of runs",
                    (JavaClass each) -> each.getName()
                            .matches("dev\\.brume\\.(Access|Brume|Orders|PauseOrder|OneOffs|RunHandle)(\\$.*)?"))))
            .should()
            .dependOnClassesThat(JavaClass.Predicates.resideInAnyPackage(
                            "dev.brume.history..", "dev.brume.spi..", "dev.brume.internal..")
                    .and(DescribedPredicate.not(JavaClass.Predicates.resideInAPackage("dev.brume.internal.text"))));

    @ArchTest
    static final ArchRule historyKnowsNoStore = noClasses()
            .that()
            .resideInAPackage("dev.brume.history..")
            .should()
            .dependOnClassesThat(JavaClass.Predicates.resideInAnyPackage("dev.brume.spi..", "dev.brume.internal..")
                    .and(DescribedPredicate.not(JavaClass.Predicates.resideInAPackage("dev.brume.internal.text"))));

    @ArchTest
    static final ArchRule storesAreAskedForNothingInternal = noClasses()
            .that()
            .resideInAPackage("dev.brume.spi..")
            .should()
            .dependOnClassesThat(JavaClass.Predicates.resideInAPackage("dev.brume.internal..")
                    .and(DescribedPredicate.not(JavaClass.Predicates.resideInAPackage("dev.brume.internal.text"))));

    @ArchTest
    static final ArchRule theTestkitStandsOnTheSpiAlone = noClasses()
            .that()
            .resideInAPackage("dev.brume.testkit..")
            .should()
            .dependOnClassesThat()
            .resideInAPackage("dev.brume.internal..");

    /** Everything about SQL but the type of a connection, which users hand in and are handed without anyone looking inside. */
    private static final DescribedPredicate<JavaClass> SQL = JavaClass.Predicates.resideInAnyPackage(
                    "java.sql..", "javax.sql..")
            .and(DescribedPredicate.not(JavaClass.Predicates.equivalentTo(Connection.class)));

    @ArchTest
    static final ArchRule decisionsKnowNoDutyNoThreadAndNoClock = noClasses()
            .that()
            .resideInAPackage("dev.brume.internal.decide..")
            .should()
            .dependOnClassesThat()
            .resideInAnyPackage(
                    "dev.brume.internal.duty..",
                    "dev.brume.internal.engine..",
                    "dev.brume.internal.work..",
                    "java.util.concurrent..",
                    "java.sql..",
                    "java.io..",
                    "org.slf4j..");

    private static final String[] DUTIES = {
        "dev.brume.internal.duty..",
        "dev.brume.internal.run..",
        "dev.brume.internal.plan..",
        "dev.brume.internal.order..",
        "dev.brume.internal.define..",
        "dev.brume.internal.session..",
        "dev.brume.internal.retention..",
        "dev.brume.internal.round.."
    };

    @ArchTest
    static final ArchRule dutiesKnowNoThreadsAndNoDatabase = noClasses()
            .that()
            .resideInAnyPackage(DUTIES)
            .should()
            .dependOnClassesThat()
            .resideInAnyPackage(
                    "dev.brume.internal.engine..", "dev.brume.internal.work..", "dev.brume.internal.event..")
            .orShould()
            .dependOnClassesThat(SQL)
            .orShould()
            .dependOnClassesThat()
            .areAssignableTo(Thread.class);

    @ArchTest
    static final ArchRule onlyTheJdbcModuleAndTheCommandKnowSql = noClasses()
            .that()
            .resideOutsideOfPackages(
                    "dev.brume.jdbc..", "dev.brume.spring..", "dev.brume.cli..", "dev.brume.examples..")
            .should()
            .dependOnClassesThat(SQL);

    @ArchTest
    static final ArchRule scheduleNeedsNothingButTheJdk = noClasses()
            .that()
            .resideInAPackage("dev.brume.schedule..")
            .should()
            .dependOnClassesThat()
            .resideOutsideOfPackages("dev.brume.schedule..", "java..", "org.jspecify.annotations");

    @ArchTest
    static final ArchRule onlyTheTimePortReadsTheWallClock = noClasses()
            .that()
            .resideInAnyPackage(
                    "dev.brume",
                    "dev.brume.history..",
                    "dev.brume.spi..",
                    "dev.brume.internal..",
                    "dev.brume.schedule..",
                    "dev.brume.ical..",
                    "dev.brume.insight..",
                    "dev.brume.jdbc..",
                    "dev.brume.definitions..")
            .and(DescribedPredicate.not(DescribedPredicate.describe(
                    "the time source", (JavaClass each) -> each.getName().startsWith("dev.brume.spi.TimeSource"))))
            .should()
            .callMethod(java.time.Instant.class, "now")
            .orShould()
            .callMethod(System.class, "currentTimeMillis")
            .orShould()
            .callMethod(java.time.LocalDateTime.class, "now")
            .orShould()
            .callMethod(java.time.ZoneId.class, "systemDefault");

    /** The interface itself is left out: Brume and Orders begin everything, and everything speaks in its values. */
    @ArchTest
    static final ArchRule packagesOfCoreFormNoCircle =
            slices().matching("dev.brume.(history|spi|internal.*)..").should().beFreeOfCycles();

    @ArchTest
    static final ArchRule packagesOfInsightFormNoCircle =
            slices().matching("dev.brume.insight.(*)..").should().beFreeOfCycles();
}
