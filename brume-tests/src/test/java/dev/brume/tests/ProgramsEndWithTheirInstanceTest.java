package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.EnabledOnOs;
import org.junit.jupiter.api.condition.OS;
import org.junit.jupiter.api.io.TempDir;

/** An instance that is killed leaves no program of its runs behind. */
class ProgramsEndWithTheirInstanceTest {
    @TempDir
    private Path folder;

    @Test
    @EnabledOnOs(OS.LINUX)
    void afterAKillNothingGoesOnThatARunHadStartedAndWhatAnEndedRunLeftStays() throws Exception {
        Path pids = folder.resolve("pids");
        Path left = folder.resolve("left");
        Files.writeString(folder.resolve("harbour.yaml"), """
                jobs:
                  survey:
                    when: {every: 1s}
                    ifBusy: skip
                    work:
                      program:
                        - sh
                        - -c
                        - |
                          (sh -c 'echo $$ >> %1$s; sleep 600' &)
                          echo $$ >> %1$s
                          env -i sleep 601 & echo $! >> %1$s
                          wait
                  lamp:
                    when: {every: 1s}
                    work: {program: [sh, -c, "[ -e %2$s ] || { sleep 602 > /dev/null & echo $! > %2$s; }"]}
                """.formatted(pids, left));
        List<ProcessHandle> started;
        try (BrumeProcess serve =
                BrumeProcess.start(folder, "serve", "--format", "json", "--definitions", "harbour.yaml")) {
            serve.await(BrumeProcess.kindOf("SUCCEEDED", "lamp"));
            started = handles(pids, 3);
            assertThat(started).allMatch(ProcessHandle::isAlive);
            serve.kill();
            for (ProcessHandle handle : started) {
                handle.onExit().get(30, TimeUnit.SECONDS);
            }
        }

        ProcessHandle lamp = handles(left, 1).get(0);
        assertThat(lamp.isAlive()).isTrue();
        lamp.destroyForcibly();
    }

    @Test
    void textIsUtf8WhateverTheLocale() throws Exception {
        Map<String, String> plain = Map.of("LC_ALL", "C", "LANG", "C");
        Files.writeString(folder.resolve("harbour.yaml"), """
                jobs:
                  tides:
                    payload: Höhe
                    work:
                      program: [sh, -c, 'echo "$BRUME_PAYLOAD, $0, $GREETING"', Übung]
                      environment: {GREETING: Grüße}
                """);
        BrumeProcess.Result serve;
        try (BrumeProcess brume =
                BrumeProcess.start(folder, plain, "serve", "--format", "json", "--definitions", "harbour.yaml")) {
            brume.await(BrumeProcess.kind("JOINED"));
            BrumeProcess.Result order =
                    BrumeProcess.run(folder, plain, "run-now", "tides", "--because", "Grüße", "--as", "Jürgen");
            assertThat(order.exitCode()).as(order.err()).isZero();
            brume.await(BrumeProcess.kindOf("SUCCEEDED", "tides"));
            brume.terminate();
            serve = brume.result();
        }
        assertThat(serve.exitCode()).as("an orderly TERM").isZero();
        assertThat(BrumeProcess.run(folder, plain, "changes", "--who", "Jürgen").flat())
                .contains("because: Grüße");
        String shown = BrumeProcess.run(folder, plain, "show", "1").out();
        assertThat(shown).contains("Höhe, Übung, Grüße");
    }

    private static List<ProcessHandle> handles(Path file, int count) throws Exception {
        List<ProcessHandle> found = new ArrayList<>();
        long until = System.nanoTime() + TimeUnit.SECONDS.toNanos(60);
        while (found.size() < count) {
            assertThat(System.nanoTime() - until).as("waited in vain").isNegative();
            found.clear();
            if (Files.exists(file)) {
                for (String line : Files.readAllLines(file)) {
                    Optional<ProcessHandle> handle = ProcessHandle.of(Long.parseLong(line));
                    handle.ifPresent(found::add);
                }
            }
        }
        return found;
    }
}
