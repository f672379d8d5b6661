package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.jdbc.EmbeddedDatabase;
import dev.brume.jdbc.JdbcStore;
import java.io.File;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/**
 * Every version of H2 that an application may bring, tried out in a process of its own: which of them keep a commit that they have acknowledged,
 * that Brume knows which, and that it opens what any of them wrote.
 */
@Tag("long")
class H2VersionsTest {
    private static final Path VERSIONS = Path.of("target", "h2").toAbsolutePath();

    @TempDir
    private Path folder;

    @ParameterizedTest
    @ValueSource(strings = {"2.3.230", "2.3.232", "2.4.240"})
    void theseKeepEveryCommitAndMayOwnAnEmbeddedDatabase(String version) throws Exception {
        Map<String, String> found = trial(version);

        assertThat(found)
                .containsEntry("lost at first", "0")
                .containsEntry("lost after a clean opening", "0")
                .containsEntry("embedded", "opened")
                .containsEntry("concerns", "[]");
        whatItLeftCanBeOpened(50);
    }

    @ParameterizedTest
    @ValueSource(strings = {"2.5.250", "2.5.252"})
    void theseLoseCommitsAndAreRefusedOrReported(String version) throws Exception {
        Map<String, String> found = trial(version);

        assertThat(Integer.parseInt(found.get("lost at first"))).isPositive();
        assertThat(Integer.parseInt(found.get("lost after a clean opening")))
                .as("opening it cleanly is no help")
                .isPositive();
        assertThat(found.get("embedded"))
                .startsWith("refused: ")
                .contains("H2 " + version + " loses commits", "com.h2database:h2:2.4.240");
        assertThat(found.get("concerns")).contains("H2 " + version + " loses commits");
        whatItLeftCanBeOpened(/* least= */ 1);
    }

    /** A commit or two at the end may be gone with the versions that lose some; run numbers go on above those given out. */
    private void whatItLeftCanBeOpened(int least) {
        try (EmbeddedDatabase database = EmbeddedDatabase.open(folder.resolve("left"), EmbeddedDatabase.Role.HOST)) {
            JdbcStore store = JdbcStore.on(database);
            store.prepare();
            int jobs = store.history().jobs().size();
            assertThat(jobs).isBetween(least, 50);
            assertThat(store.transact(tx -> tx.take(1)).ids().get(0)).isGreaterThanOrEqualTo(jobs);
            assertThat(store.concerns()).isEmpty();
        }
    }

    private Map<String, String> trial(String version) throws Exception {
        Path errors = folder.resolve("errors");
        Process process = new ProcessBuilder(
                        ProcessHandle.current().info().command().orElse("java"),
                        "-cp",
                        classPathWith(VERSIONS.resolve("h2-" + version + ".jar")),
                        H2Trial.class.getName(),
                        folder.toString())
                .redirectError(errors.toFile())
                .start();
        Map<String, String> found = new TreeMap<>();
        for (String line : process.inputReader(StandardCharsets.UTF_8).lines().toList()) {
            List.of("lost at first", "lost after a clean opening", "embedded", "concerns").stream()
                    .filter(key -> line.startsWith(key + " "))
                    .forEach(key -> found.put(key, line.substring(key.length() + 1)));
        }
        assertThat(process.waitFor()).as(() -> read(errors)).isZero();
        return found;
    }

    private static String read(Path file) {
        try {
            return java.nio.file.Files.readString(file);
        } catch (IOException e) {
            return e.toString();
        }
    }

    private static String classPathWith(Path h2) {
        assertThat(h2).exists();
        return Arrays.stream(System.getProperty("java.class.path").split(File.pathSeparator))
                .map(entry ->
                        Path.of(entry).getFileName().toString().matches("h2-[0-9.]+\\.jar") ? h2.toString() : entry)
                .collect(Collectors.joining(File.pathSeparator));
    }
}
