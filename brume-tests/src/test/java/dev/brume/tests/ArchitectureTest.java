package dev.brume.tests;

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
                    "dev.brume",
                    "dev.brume.port..",
                    "dev.brume.decide..",
                    "dev.brume.duties..",
                    "dev.brume.engine..",
                    "dev.brume.memory..",
                    "dev.brume.tally..",
                    "dev.brume.why..",
                    "dev.brume.rehearsal..",
                    "dev.brume.diff..",
                    "dev.brume.seal..",
                    "dev.brume.document..")
            .layer("jdbc")
            .definedBy("dev.brume.jdbc..")
            .layer("definitions")
            .definedBy("dev.brume.definitions..")
            .layer("cli")
            .definedBy("dev.brume.cli..")
            .layer("testkit")
            .definedBy("dev.brume.testkit..")
            .layer("examples")
            .definedBy("dev.brume.examples..")
            .whereLayer("schedule")
            .mayNotAccessAnyLayer()
            .whereLayer("ical")
            .mayOnlyAccessLayers("schedule")
            .whereLayer("core")
            .mayOnlyAccessLayers("schedule")
            .whereLayer("jdbc")
            .mayOnlyAccessLayers("schedule", "core")
            .whereLayer("definitions")
            .mayOnlyAccessLayers("schedule", "ical", "core")
            .whereLayer("cli")
            .mayOnlyAccessLayers("schedule", "ical", "core", "jdbc", "definitions")
            .whereLayer("testkit")
            .mayOnlyAccessLayers("schedule", "core")
            .whereLayer("examples")
            .mayOnlyAccessLayers("schedule", "core", "jdbc", "definitions");

    /** Everything about SQL but the type of a connection, which users hand in and are handed without anyone looking inside. */
    private static final DescribedPredicate<JavaClass> SQL = JavaClass.Predicates.resideInAnyPackage(
                    "java.sql..", "javax.sql..")
            .and(DescribedPredicate.not(JavaClass.Predicates.equivalentTo(Connection.class)));

    @ArchTest
    static final ArchRule decisionsKnowNoDutyNoThreadAndNoClock = noClasses()
            .that()
            .resideInAPackage("dev.brume.decide..")
            .should()
            .dependOnClassesThat()
            .resideInAnyPackage(
                    "dev.brume.duties..",
                    "dev.brume.engine..",
                    "dev.brume.memory..",
                    "java.util.concurrent..",
                    "java.sql..",
                    "java.io..",
                    "org.slf4j..");

    @ArchTest
    static final ArchRule dutiesKnowNoThreadsAndNoDatabase = noClasses()
            .that()
            .resideInAPackage("dev.brume.duties..")
            .should()
            .dependOnClassesThat()
            .resideInAPackage("dev.brume.engine..")
            .orShould()
            .dependOnClassesThat(SQL)
            .orShould()
            .dependOnClassesThat()
            .areAssignableTo(Thread.class);

    @ArchTest
    static final ArchRule onlyTheJdbcModuleAndTheCommandKnowSql = noClasses()
            .that()
            .resideOutsideOfPackages("dev.brume.jdbc..", "dev.brume.cli..", "dev.brume.examples..")
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
                    "dev.brume.schedule..",
                    "dev.brume.decide..",
                    "dev.brume.duties..",
                    "dev.brume.engine..",
                    "dev.brume.tally..",
                    "dev.brume.why..",
                    "dev.brume.rehearsal..",
                    "dev.brume.diff..",
                    "dev.brume.seal..",
                    "dev.brume.document..",
                    "dev.brume.jdbc..",
                    "dev.brume.definitions..")
            .should()
            .callMethod(java.time.Instant.class, "now")
            .orShould()
            .callMethod(System.class, "currentTimeMillis")
            .orShould()
            .callMethod(java.time.LocalDateTime.class, "now")
            .orShould()
            .callMethod(java.time.ZoneId.class, "systemDefault");

    @ArchTest
    static final ArchRule packagesOfCoreFormNoCircle = slices().matching(
                    "dev.brume.(duties|engine|memory|decide|document|port|tally|why|rehearsal|diff)..")
            .should()
            .beFreeOfCycles();
}
