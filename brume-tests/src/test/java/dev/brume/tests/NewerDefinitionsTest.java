package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.Brume;
import dev.brume.Defined;
import dev.brume.DefinitionSet;
import dev.brume.Event;
import dev.brume.Job;
import dev.brume.NotThereException;
import dev.brume.StoreException;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.internal.document.JobDocument;
import dev.brume.spi.Store;
import java.io.InputStream;
import java.net.URL;
import java.net.URLClassLoader;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import java.util.function.Function;
import java.util.jar.Attributes;
import java.util.jar.JarEntry;
import java.util.jar.JarOutputStream;
import java.util.jar.Manifest;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** During a rolling deploy, what a newer version defined is left alone by an older one, and said so. */
class NewerDefinitionsTest {
    private static final Job TIDES =
            Job.named("tides").every(Duration.ofSeconds(1)).handler("note").build();
    private static final Job GLOW =
            Job.named("glow").every(Duration.ofSeconds(1)).handler("note").build();

    private final Set<String> problems = ConcurrentHashMap.newKeySet();
    private final CountDownLatch told = new CountDownLatch(1);
    private final CountDownLatch ran = new CountDownLatch(2);

    @ParameterizedTest
    @EnumSource
    void aJobOfANewerFormatWaitsForANewerInstance(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh()) {
            definedByANewerVersion(fresh, JobDocument.FORMAT + 1);
            Brume older = older(fresh);

            assertThat(told.await(20, TimeUnit.SECONDS)).isTrue();
            assertThat(ran.await(20, TimeUnit.SECONDS)).isTrue();
            assertThat(older.define(GLOW).kind()).isEqualTo(Defined.Kind.OUTDATED);
            older.stop(Duration.ofSeconds(10));

            assertThat(fresh.store().history().runs(RunFilter.newest(100)))
                    .extracting(RunView::job)
                    .containsOnly(TIDES.name());
            assertThat(problems)
                    .anyMatch(text -> text.startsWith("a job that is due goes by a definition that a newer"));
            assertThatThrownBy(() -> fresh.store().history().jobs())
                    .isInstanceOf(StoreException.class)
                    .hasMessageContaining("glow was written by a newer version of Brume");
        }
    }

    @ParameterizedTest
    @EnumSource
    void aDefinitionThatCannotBeReadDoesNotHoldUpOthers(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh()) {
            definedByANewerVersion(fresh, 1);
            Brume older = older(fresh);

            assertThat(told.await(20, TimeUnit.SECONDS)).isTrue();
            assertThat(ran.await(20, TimeUnit.SECONDS)).isTrue();
            older.stop(Duration.ofSeconds(10));

            assertThat(problems).anyMatch(text -> text.startsWith("glow goes by a definition that a newer"));
            assertThat(fresh.number("select count(*) from " + fresh.table("brume_ledger") + " l join "
                            + fresh.table("brume_job") + " j on j.id = l.job_id where j.name = 'glow'"))
                    .isZero();
        }
    }

    private static Brume build(Db.Fresh fresh, String day) {
        return Brume.on(fresh.store())
                .instance("build-" + day)
                .builtAt(Instant.parse("2026-11-" + day + "T08:00:00Z"))
                .build();
    }

    private static Job tides(Duration interval) {
        return Job.named("tides").every(interval).handler("note").build();
    }

    @ParameterizedTest
    @EnumSource
    void ofTwoBuildsTheLaterOneHoldsInWhateverOrderTheyStart(Db db) {
        try (Db.Fresh fresh = db.fresh();
                Brume older = build(fresh, "28");
                Brume later = build(fresh, "30");
                Brume person = Brume.on(fresh.store()).instance("office").build()) {
            Job old = tides(Duration.ofSeconds(10));
            Job now = tides(Duration.ofSeconds(20));
            assertThat(older.define(old).kind()).isEqualTo(Defined.Kind.NEW);
            assertThat(later.define(now)).isEqualTo(new Defined(TIDES.name(), Defined.Kind.CHANGED, 2));
            assertThat(older.define(old))
                    .as("names the version in force")
                    .isEqualTo(new Defined(TIDES.name(), Defined.Kind.OUTDATED, 2));
            assertThat(older.define(now).kind()).isEqualTo(Defined.Kind.UNCHANGED);
            assertThat(older.define(List.of(old, GLOW), "api"))
                    .as("what only the older one has")
                    .extracting(Defined::kind)
                    .containsExactly(Defined.Kind.OUTDATED, Defined.Kind.NEW);
            assertThat(later.define(tides(Duration.ofSeconds(30))).version()).isEqualTo(3);

            assertThat(person.orders("ines", "back to build 28").accept("api")).isEqualTo(2);
            assertThat(older.define(old)).isEqualTo(new Defined(TIDES.name(), Defined.Kind.CHANGED, 4));
            assertThat(person.define(now).kind())
                    .as("without a build, as it is asked")
                    .isEqualTo(Defined.Kind.CHANGED);
            assertThatThrownBy(() -> person.orders("ines", "").accept("nowhere.yaml"))
                    .isInstanceOf(NotThereException.class)
                    .hasMessageContaining("no definition in force comes from 'nowhere.yaml'");
        }
    }

    @ParameterizedTest
    @EnumSource
    void aRevisionThatWasGoneBackToIsAccepted(Db db) {
        try (Db.Fresh fresh = db.fresh();
                Brume office = Brume.on(fresh.store()).instance("office").build()) {
            DefinitionSet file = DefinitionSet.of("tides.yaml", List.of(tides(Duration.ofSeconds(10))));
            office.define(file.withRevision(7));
            assertThat(office.define(file.withRevision(6)).get(0))
                    .isEqualTo(new Defined(TIDES.name(), Defined.Kind.OUTDATED, 1));
            office.orders("ines", "").accept("tides.yaml");
            assertThat(office.define(file.withRevision(6)).get(0).kind()).isEqualTo(Defined.Kind.UNCHANGED);
        }
    }

    @Test
    void whenItWasBuiltStandsInTheManifest(@TempDir Path folder) throws Exception {
        Path archive = folder.resolve("harbour.jar");
        Manifest manifest = new Manifest();
        manifest.getMainAttributes().put(Attributes.Name.MANIFEST_VERSION, "1.0");
        manifest.getMainAttributes().putValue("Build-Time", "2026-11-28T08:00:00Z");
        String name = Starter.class.getName().replace('.', '/') + ".class";
        try (JarOutputStream jar = new JarOutputStream(Files.newOutputStream(archive), manifest);
                InputStream code = Starter.class.getResourceAsStream("/" + name)) {
            jar.putNextEntry(new JarEntry(name));
            code.transferTo(jar);
        }
        ClassLoader parent = NewerDefinitionsTest.class.getClassLoader();
        try (Db.Fresh fresh = Db.H2.fresh();
                URLClassLoader loader =
                        new URLClassLoader(new URL[] {archive.toUri().toURL()}, null) {
                            @Override
                            protected Class<?> findClass(String wanted) throws ClassNotFoundException {
                                return wanted.equals(Starter.class.getName())
                                        ? super.findClass(wanted)
                                        : parent.loadClass(wanted);
                            }
                        };
                Brume later = build(fresh, "30")) {
            @SuppressWarnings("unchecked")
            Function<Store, Brume> starter = (Function<Store, Brume>) loader.loadClass(Starter.class.getName())
                    .getDeclaredConstructor()
                    .newInstance();
            later.define(TIDES);
            try (Brume packed = starter.apply(fresh.store())) {
                assertThat(packed.define(tides(Duration.ofSeconds(5))).kind()).isEqualTo(Defined.Kind.OUTDATED);
            }
        }
    }

    /** An application's own class, which is read from its archive. */
    public static final class Starter implements Function<Store, Brume> {
        @Override
        public Brume apply(Store store) {
            return Brume.on(store).instance("packed").build();
        }
    }

    private static void definedByANewerVersion(Db.Fresh fresh, int format) throws SQLException {
        Brume.on(fresh.store()).instance("newer").build().define(List.of(TIDES, GLOW), "test");
        fresh.withoutGuard("brume_definition");
        fresh.sql("update " + fresh.table("brume_definition") + " set definition = replace(definition, '{\"when\"',"
                + " '{\"colour\":\"green\",\"when\"') where job_id = (select id from " + fresh.table("brume_job")
                + " where name = 'glow')");
        fresh.sql("update " + fresh.table("brume_job") + " set format = " + format + " where name = 'glow'");
    }

    private Brume older(Db.Fresh fresh) {
        Brume older = Brume.on(fresh.store())
                .instance("older")
                .engineListener(event -> {
                    if (event.kind() == Event.Kind.PROBLEM) {
                        problems.add(event.text());
                        told.countDown();
                    }
                })
                .build();
        older.handler("note", run -> ran.countDown());
        older.start();
        return older;
    }
}
