package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.tests.BrumeProcess.Result;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The commands by which one is told, tries it out, and says that one knows. */
class NoticesCommandTest {
    private static final String HARBOUR = """
            namespace: harbour
            zone: UTC
            channels:
              duty: {webhook: {url: "http://127.0.0.1:%d/harbour", secret: "${env:DUTY_SECRET}"}}
              nobody: {webhook: {url: "http://127.0.0.1:%d/gone"}}
              office: {program: [sh, -c, "cat >> told.txt; echo >> told.txt"]}
            notices:
              troubles: {tell: [failed], to: [duty]}
              quiet: {tell: [silent], of: {jobs: [lamps]}, to: [duty]}
            jobs:
              tides: {work: {program: [sh, -c, "echo 'no tide' >&2; exit 3"]}}
              lamps: {when: {every: 1s}, work: {program: ["true"]}, successWithin: 1m}
            """;
    private static final Map<String, String> SECRET = Map.of("DUTY_SECRET", "a-secret-of-the-office");

    @TempDir
    private Path folder;

    private BrumeProcess pager;
    private BrumeProcess gone;

    @BeforeEach
    void write() throws Exception {
        pager = BrumeProcess.start(folder, "echo", "--port", "0", "--secret", "a-secret-of-the-office");
        gone = BrumeProcess.start(folder, "echo", "--port", "0", "--status", "410,200");
        Files.writeString(folder.resolve("harbour.yaml"), HARBOUR.formatted(port(pager), port(gone)));
    }

    @AfterEach
    void end() throws Exception {
        pager.close();
        gone.close();
    }

    private static int port(BrumeProcess echo) throws InterruptedException {
        return Integer.parseInt(echo.nextLine().replaceAll(".*:(\\d+)/", "$1"));
    }

    private Result brume(String... command) throws Exception {
        return Commands.run(folder, command);
    }

    @Test
    void whatFailsArrivesSignedAndIsSilentOnceSomebodyKnows() throws Exception {
        try (BrumeProcess quay = BrumeProcess.serve(folder, SECRET, "--format", "json")) {
            quay.await(BrumeProcess.kindOf("SUCCEEDED", "harbour/lamps"));

            assertThat(brume("run-now", "harbour/tides", "--wait=200s").exitCode())
                    .isEqualTo(1);
            assertThat(pager.nextLine())
                    .contains("POST /harbour")
                    .contains("failed: harbour/tides failed: ")
                    .contains("(signature holds)");
            Result causes = brume("notices", "causes");
            assertThat(causes.flat()).contains("failing harbour/tides").contains("harbour/duty");
            assertThat(brume("notices", "acknowledge", "failing harbour/tides", "--for", "4h", "--because", "on it")
                            .exitCode())
                    .isZero();
            assertThat(brume("run-now", "harbour/tides", "--wait=200s").exitCode())
                    .isEqualTo(1);
            assertThat(brume("notices", "--format", "json").jsonList())
                    .as("nothing more was told, nor is to be")
                    .singleElement()
                    .satisfies(notice -> assertThat(notice).containsEntry("state", "DELIVERED"));
            assertThat(brume("changes").flat())
                    .contains("failing harbour/tides")
                    .contains("because: on it");
            assertThat(brume("notices", "speak", "failing harbour/tides").exitCode())
                    .isZero();
            assertThat(brume("notices", "acknowledge", "failing harbour/tide").err())
                    .contains("brume notices causes");
            assertThat(brume("notices", "channels").out())
                    .contains("harbour/duty")
                    .contains(", signed")
                    .doesNotContain("a-secret-of-the-office");

            Result refused = brume("notices", "test", "harbour/nobody");
            assertThat(refused.exitCode()).isEqualTo(1);
            assertThat(refused.err() + refused.out())
                    .contains("it was not taken: ")
                    .contains("410");
            assertThat(brume("doctor").flat()).contains("harbour/nobody").contains("brume notices");
            Map<String, Object> lost = brume("notices", "--state", "undelivered", "--format", "json")
                    .jsonList()
                    .get(0);
            assertThat(brume("notices", "again", lost.get("notice").toString()).exitCode())
                    .isZero();
            assertThat(gone.nextLine()).contains("-> 410");
            assertThat(gone.nextLine()).contains("-> 200");
            assertThat(brume("notices", "test", "harbour/duti").err()).contains("harbour/duty");
        }
    }

    @Test
    @Tag("long")
    void silenceIsToldOnceByWhoeverKeepsVigilAlthoughNothingRuns() throws Exception {
        try (BrumeProcess quay = BrumeProcess.serve(folder, SECRET, "--format", "json")) {
            quay.await(BrumeProcess.kindOf("SUCCEEDED", "harbour/lamps"));
            quay.terminate();
            quay.result();
        }
        // The embedded database has one host; the second process reaches it through the first.
        try (BrumeProcess vigil = BrumeProcess.start(folder, SECRET, "vigil", "--name", "eye-1");
                BrumeProcess other = BrumeProcess.start(folder, SECRET, "vigil", "--name", "eye-2")) {
            assertThat(pager.nextLine())
                    .contains("silent: harbour/lamps has not succeeded for 1m")
                    .contains("(signature holds)");
            assertThat(brume("notices", "causes").flat()).contains("silent harbour/lamps");
            assertThat(brume("doctor").flat()).contains("no instance is alive");
            for (BrumeProcess each : List.of(vigil, other)) {
                each.terminate();
                assertThat(each.result().err()).contains("keeps vigil; 2 rules").contains("stopping");
            }
        }
        assertThat(brume("notices", "--format", "json").jsonList())
                .as("two look, one tells")
                .hasSize(1);
        assertThat(brume("notices", "channels").out()).contains("the program sh");
    }

    @Test
    void whatTroubleWouldDoAndWhatRulesWouldHaveToldIsSaidBeforehand() throws Exception {
        Files.writeString(folder.resolve("night.yaml"), """
                namespace: harbour
                zone: UTC
                channels: {office: {program: [sh, work/tell.sh]}}
                notices: {tides: {tell: [deadlineMissed, missed, takenOver], to: [office]}}
                jobs:
                  tide-tables: {when: {cron: "15 4 * * *"}, work: {program: ["true"]}, followUps: {success: [tide-print]}}
                  tide-print: {work: {program: ["true"]}, endBy: "06:00"}
                """);
        Result calm = rehearse();
        assertThat(calm.exitCode()).isZero();
        assertThat(calm.flat()).contains("nothing was made to go wrong", "Nobody would have been told anything");

        Result trouble = rehearse("--lose", "quay-1@04:20", "--slow", "harbour/tide-tables*3");
        assertThat(trouble.flat())
                .contains("quay-1")
                .contains("harbour/tide-print")
                .contains("harbour/tide-print of 12-02 04:15:00 ended 51m after 12-02 06:00:00")
                .contains("in all: 4 notices to harbour/office");
        Result wrong = rehearse("--lose", "quay-1");
        assertThat(wrong.exitCode()).isEqualTo(2);
        assertThat(wrong.err()).contains("--lose 'quay-1' is not of the form quay-2@04:10");

        assertThat(brume("sync", "--create", "night.yaml", "--yes").exitCode()).isZero();
        Result past = brume("notices", "rehearse", "--definitions", "night.yaml", "--back", "2d");
        assertThat(past.exitCode()).isZero();
        assertThat(past.flat()).contains("Nothing would have been told");
    }

    private Result rehearse(String... trouble) throws IOException, InterruptedException {
        List<String> command = new ArrayList<>(List.of(
                "rehearse",
                "night.yaml",
                "--instances",
                "2",
                "--takes",
                "harbour/tide-tables=50m",
                "--from",
                "2026-12-02T00:00:00Z",
                "--for",
                "1d"));
        command.addAll(List.of(trouble));
        return Commands.run(folder, command.toArray(String[]::new));
    }
}
