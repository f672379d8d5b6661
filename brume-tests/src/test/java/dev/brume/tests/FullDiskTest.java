package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.tests.BrumeProcess.Result;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.concurrent.TimeUnit;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.junit.jupiter.api.io.TempDir;

/** An embedded database whose file may not grow any more, as on a full disk: a limit set for the process. */
@Tag("long")
class FullDiskTest {
    /** Two mebibytes, in blocks of 512 bytes. */
    private static final long ROOM = 4096;

    @TempDir
    private Path folder;

    private List<String> finished() throws Exception {
        Result runs =
                BrumeProcess.run(folder, "runs", "--count", "10000", "--outcome", "succeeded", "--format", "json");
        assertThat(runs.exitCode()).as(runs.err()).isZero();
        return runs.jsonList().stream()
                .map(run -> run.get("job") + " " + run.get("planned"))
                .collect(Collectors.toList());
    }

    /** Lets a database begin without a limit; returns its file. */
    private Path prepared() throws Exception {
        try (BrumeProcess first = BrumeProcess.start(folder, "serve", "--format", "json")) {
            first.await(event -> "JOINED".equals(event.get("kind")));
            first.terminate();
            first.result();
        }
        return folder.resolve("brume-data/brume.mv.db");
    }

    private static long blocks(Path file) throws IOException {
        return Files.size(file) / 512;
    }

    @Test
    @Timeout(value = 3, unit = TimeUnit.MINUTES, threadMode = Timeout.ThreadMode.SEPARATE_THREAD)
    void whatWasCommittedIsThereAndTheNextInstanceGoesOn() throws Exception {
        Files.writeString(folder.resolve("harbour.yaml"), """
                zone: UTC
                jobs:
                  noisy:
                    when: {every: 1s}
                    work: {program: [sh, -c, 'head -c 30000 /dev/urandom | od -An -tx1 | head -c 60000']}
                  noisier:
                    when: {every: 1s}
                    work: {program: [sh, -c, 'head -c 30000 /dev/urandom | od -An -tx1 | head -c 60000']}
                """);
        long limit = blocks(prepared()) + ROOM;
        Process limited = new ProcessBuilder(
                        "sh", "-c", "ulimit -f " + limit + "; exec " + launcher() + " serve --definitions harbour.yaml")
                .directory(folder.toFile())
                .redirectErrorStream(true)
                .start();
        String problem = null;
        try (var lines = limited.inputReader()) {
            for (String line = lines.readLine(); line != null && problem == null; line = lines.readLine()) {
                problem = line.contains("PROBLEM") ? line : null;
            }
        } finally {
            limited.destroyForcibly();
            assertThat(limited.waitFor(30, TimeUnit.SECONDS)).isTrue();
        }
        assertThat(problem)
                .containsAnyOf("File too large", "H2 has given up on its file")
                .doesNotContain("\tat ");

        List<String> before = finished();
        try (BrumeProcess next =
                BrumeProcess.start(folder, "serve", "--definitions", "harbour.yaml", "--format", "json")) {
            next.await(BrumeProcess.kindOf("SUCCEEDED", "noisy"));
            next.terminate();
            next.result();
        }
        List<String> after = finished();
        assertThat(before).isNotEmpty().doesNotHaveDuplicates();
        assertThat(after).hasSizeGreaterThan(before.size()).containsAll(before).doesNotHaveDuplicates();
    }

    private static String launcher() {
        Path here = Path.of("").toAbsolutePath();
        return (Files.exists(here.resolve("brume")) ? here : here.getParent())
                .resolve("brume")
                .toString();
    }
}
