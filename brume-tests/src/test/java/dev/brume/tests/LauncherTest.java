package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.FileTime;
import java.nio.file.attribute.PosixFilePermissions;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The launcher in a checkout of its own, with stand-ins for the tools it calls so that it builds nothing. */
@Tag("long")
class LauncherTest {
    @TempDir
    private Path folder;

    private Path checkout;
    private Path tools;
    private Path jar;

    @BeforeEach
    void layOut() throws Exception {
        checkout = Files.createDirectories(folder.resolve("checkout"));
        Path own = Path.of("").toAbsolutePath();
        Path script = Files.exists(own.resolve("brume"))
                ? own.resolve("brume")
                : own.getParent().resolve("brume");
        Files.copy(script, checkout.resolve("brume"), java.nio.file.StandardCopyOption.COPY_ATTRIBUTES);
        for (String module : List.of("brume-schedule", "brume-core", "brume-jdbc", "brume-definitions", "brume-cli")) {
            Path source = Files.createDirectories(checkout.resolve(module).resolve("src/main"));
            Files.writeString(source.resolve("A.java"), "class A {}");
            Files.writeString(checkout.resolve(module).resolve("pom.xml"), "<project/>");
        }
        Files.writeString(checkout.resolve("pom.xml"), "<project/>");
        jar = checkout.resolve("brume-cli/target/brume.jar");
        tools = Files.createDirectories(folder.resolve("tools"));
        tool("java", "if [ \"$1\" = -version ]; then echo 'openjdk version \"17.0.1\"' >&2; else echo \"java $*\"; fi");
        tool("javac", "true");
        tool(
                "mvn",
                "mkdir -p brume-cli/target && echo jar > brume-cli/target/brume.jar && echo built >> "
                        + folder.resolve("builds"));
    }

    private void tool(String name, String script) throws IOException {
        Path tool = Files.writeString(tools.resolve(name), "#!/bin/sh\n" + script + "\n");
        Files.setPosixFilePermissions(tool, PosixFilePermissions.fromString("rwxr-xr-x"));
    }

    private record Result(int exitCode, String out, String err) {}

    private Result launch(String... args) throws Exception {
        return launch(checkout.resolve("brume"), args);
    }

    private Result launch(Path script, String... args) throws Exception {
        return launchIn(folder, script, args);
    }

    private Result launchIn(Path where, Path script, String... args) throws Exception {
        ArrayList<String> command = new ArrayList<>(List.of(script.toString()));
        command.addAll(List.of(args));
        ProcessBuilder builder = new ProcessBuilder(command).directory(where.toFile());
        Map<String, String> environment = builder.environment();
        environment.remove("JAVA_HOME");
        environment.put("XDG_CACHE_HOME", folder.resolve("cache").toString());
        environment.put("PATH", tools + ":/usr/bin:/bin");
        Path err = Files.createTempFile(folder, "err", "");
        Process process = builder.redirectError(err.toFile()).start();
        String out = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        assertThat(process.waitFor(30, TimeUnit.SECONDS)).isTrue();
        return new Result(process.exitValue(), out, Files.readString(err));
    }

    private long builds() throws IOException {
        Path builds = folder.resolve("builds");
        return Files.exists(builds) ? Files.readAllLines(builds).size() : 0;
    }

    @Test
    void theFirstUseBuildsAndSaysSoAndTheNextDoesNot() throws Exception {
        Result first = launch("jobs", "--data", "a b");
        assertThat(first.err()).contains("building the command");
        assertThat(first.out()).contains("-jar " + jar.toRealPath()).endsWith("jobs --data a b\n");
        assertThat(first.exitCode()).isZero();

        assertThat(launch("jobs").err()).isEmpty();
        assertThat(builds()).isEqualTo(1);
        assertThat(checkout.resolve(".brume-build")).doesNotExist();
    }

    @Test
    void aChangedSourceIsBuiltAgain() throws Exception {
        launch("jobs");
        Files.setLastModifiedTime(
                checkout.resolve("brume-core/src/main/A.java"),
                FileTime.from(Instant.now().plusSeconds(60)));
        launch("jobs");

        assertThat(builds()).isEqualTo(2);
    }

    @Test
    void itIsFoundThroughALink() throws Exception {
        launch("jobs");
        Path link = Files.createSymbolicLink(folder.resolve("link"), checkout.resolve("brume"));

        assertThat(launch(link, "jobs").out()).contains("-jar " + jar.toRealPath());
    }

    @Test
    void anOldJavaIsNamed() throws Exception {
        tool("java", "echo 'openjdk version \"11.0.2\"' >&2");

        Result result = launch("jobs");
        assertThat(result.exitCode()).isEqualTo(1);
        assertThat(result.err()).contains("is older than 17").contains("install a JDK 17");
        assertThat(builds()).isZero();
    }

    @Test
    void aBuildThatFailsSaysWhyAndWhereToRead() throws Exception {
        tool("mvn", "echo '[ERROR] something is wrong'; exit 1");
        Result broken = launch("jobs");
        assertThat(broken.exitCode()).isEqualTo(1);
        assertThat(broken.err()).contains("[ERROR] something is wrong").contains("the whole story is in");

        tool("mvn", "echo '[ERROR] Could not transfer artifact: unknown host'; exit 1");
        assertThat(launch("jobs").err()).contains("is this machine online?");
        assertThat(checkout.resolve(".brume-build")).doesNotExist();
    }

    @Test
    void aLockLeftBehindByADeadBuildIsTakenOver() throws Exception {
        Path lock = Files.createDirectories(checkout.resolve(".brume-build"));
        Files.writeString(lock.resolve("pid"), "999999999");

        assertThat(launch("jobs").exitCode()).isZero();
        assertThat(builds()).isEqualTo(1);
    }

    @Test
    void aLockWhoseNumberIsAnotherProcessesByNowIsTakenOver() throws Exception {
        Path lock = Files.createDirectories(checkout.resolve(".brume-build"));
        Files.writeString(lock.resolve("pid"), ProcessHandle.current().pid() + "\nThu Jan 1 00:00:00 1970\n");

        assertThat(launch("jobs").exitCode()).isZero();
        assertThat(builds()).isEqualTo(1);
    }

    @Test
    void aLockThatNeverHadANumberIsTakenOverAfterAMinute() throws Exception {
        Path lock = Files.createDirectories(checkout.resolve(".brume-build"));
        Files.setLastModifiedTime(lock, FileTime.from(Instant.now().minusSeconds(180)));

        assertThat(launch("jobs").exitCode()).isZero();
        assertThat(builds()).isEqualTo(1);
    }

    /** {@return the name that the launcher gives an archive of the classes of a jar for a Java} */
    static String archiveOf(Path release, Path jar) throws IOException {
        Process key = new ProcessBuilder(
                        "sh", "-c", "{ cat '" + release + "'; echo '" + jar + "'; } | cksum | tr ' ' '-'")
                .start();
        String name = new String(key.getInputStream().readAllBytes(), StandardCharsets.UTF_8).strip();
        return "commands-" + name + ".jsa";
    }

    private Path archive(String permissions) throws Exception {
        launch("jobs");
        Files.writeString(folder.resolve("release"), "a release");
        Path cache = Files.createDirectories(folder.resolve("cache/brume"));
        Files.setPosixFilePermissions(cache, PosixFilePermissions.fromString(permissions));
        Path archive =
                Files.writeString(cache.resolve(archiveOf(folder.resolve("release"), jar.toRealPath())), "classes");
        Files.setLastModifiedTime(archive, FileTime.from(Instant.now().plusSeconds(60)));
        Files.setPosixFilePermissions(archive, PosixFilePermissions.fromString("r--r--r--"));
        return archive;
    }

    @Test
    void anArchiveOfClassesIsUsedOnlyFromAFolderThatIsOnesOwn() throws Exception {
        Path archive = archive("rwx------");
        assertThat(launch("jobs").out()).contains("-XX:SharedArchiveFile=" + archive);

        Files.setPosixFilePermissions(archive.getParent(), PosixFilePermissions.fromString("rwxrwxrwx"));
        assertThat(launch("jobs").out()).doesNotContain("SharedArchiveFile").endsWith("jobs\n");
    }

    /** No Java starts in a folder that is gone, such as that of a test, whose command was the first to be called. */
    @Test
    void anArchiveIsMadeAlthoughTheFolderOfTheFirstCommandIsGone() throws Exception {
        Path passing = Files.createDirectories(folder.resolve("passing"));
        Path pipe = folder.resolve("pipe");
        assertThat(new ProcessBuilder("mkfifo", pipe.toString()).start().waitFor())
                .isZero();
        Files.writeString(folder.resolve("release"), "a release");
        tool("java", """
                case "$*" in
                    -version) echo 'openjdk version "17.0.1"' >&2 ;;
                    *-Xshare:dump*) /bin/pwd >'%1$s' 2>&1 ;;
                    *Training*) while [ -d '%2$s' ]; do sleep 0.05; done ;;
                esac
                """.formatted(pipe, passing));

        assertThat(launchIn(passing, checkout.resolve("brume"), "jobs").exitCode())
                .isZero();
        Files.delete(passing);

        assertThat(Files.readString(pipe).strip())
                .as("where the archive is written")
                .isEqualTo(folder.resolve("cache/brume").toRealPath().toString());
    }

    @Test
    void twoFirstUsesAtOnceBuildOnce() throws Exception {
        tool(
                "mvn",
                "sleep 1; mkdir -p brume-cli/target && echo jar > brume-cli/target/brume.jar && echo built >> "
                        + folder.resolve("builds"));
        CompletableFuture<Result> other = Threads.supply(() -> {
            try {
                return launch("runs");
            } catch (Exception e) {
                throw new IllegalStateException(e);
            }
        });
        Result mine = launch("jobs");

        assertThat(mine.exitCode()).isZero();
        assertThat(other.get(30, TimeUnit.SECONDS).out()).endsWith("runs\n");
        assertThat(builds()).isEqualTo(1);
    }

    @Test
    void whatWasUnpackedRunsItsOwnJarAndBuildsNothing() throws Exception {
        Path unpacked = Files.createDirectories(folder.resolve("opt/brume"));
        Path bin = Files.createDirectories(unpacked.resolve("bin"));
        Files.copy(checkout.resolve("brume"), bin.resolve("brume"), java.nio.file.StandardCopyOption.COPY_ATTRIBUTES);
        Path own = Files.createDirectories(unpacked.resolve("lib")).resolve("brume.jar");
        Files.writeString(own, "jar");
        Path link = Files.createSymbolicLink(folder.resolve("brume-link"), bin.resolve("brume"));

        Result result = launch(link, "jobs");

        assertThat(result.err).isEmpty();
        assertThat(result.out).contains("-jar " + own.toRealPath() + " jobs");
        assertThat(builds()).isZero();
    }

    @Test
    void archiveIsMadeOfWhatTheCommandsLoadAndServingAndTheFirstPages() throws Exception {
        Path classes = folder.resolve("classes");
        Process process = new ProcessBuilder(
                        "java",
                        "-XX:DumpLoadedClassList=" + classes,
                        "-cp",
                        System.getProperty("java.class.path"),
                        "dev.brume.cli.Training")
                .redirectErrorStream(true)
                .redirectOutput(folder.resolve("said").toFile())
                .start();

        assertThat(process.waitFor(4, TimeUnit.MINUTES)).isTrue();
        assertThat(process.exitValue()).isZero();
        assertThat(folder.resolve("said")).isEmptyFile();
        assertThat(Files.readAllLines(classes).stream().map(line -> line.split(" ")[0]))
                .contains(
                        "dev/brume/cli/WhyCommand",
                        "dev/brume/cli/TerminalStream",
                        "com/zaxxer/hikari/pool/HikariPool",
                        "dev/brume/cli/HttpLink",
                        "dev/brume/internal/engine/Engine",
                        "dev/brume/http/internal/console/BoardPage");
    }
}
