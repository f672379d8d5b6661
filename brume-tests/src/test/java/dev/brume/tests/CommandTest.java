package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.tests.BrumeProcess.Result;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The commands as a user runs them, through the launcher, in an empty folder. */
class CommandTest {
    private static final String HARBOUR = """
            zone: Atlantic/Azores
            jobs:
              tide-tables:
                description: For the notice board
                when: {cron: "15 4 * * *"}
                work: {program: [echo, high water]}
              buoys:
                when: {every: 1s}
                work: {program: [sh, -c, 'printf "caf\\303\\251 \\377"; echo; echo oops >&2; exit 3']}
                ifFailed: {attempts: 2, wait: 100ms}
                payload: {quay: 4}
              missing:
                when: {every: 1s}
                work: {program: [./no-such-program]}
            """;

    @TempDir
    private Path folder;

    private Path file;

    @BeforeEach
    void writeDefinitions() throws Exception {
        file = Files.writeString(folder.resolve("harbour.yaml"), HARBOUR);
    }

    private Result brume(String... args) throws Exception {
        return Commands.run(folder, args);
    }

    /** As a process of its own, which ends with the command's exit code. */
    private Result process(String... args) throws Exception {
        return BrumeProcess.run(folder, args);
    }

    private static void failsWithoutTrace(Result result, int exitCode) {
        assertThat(result.exitCode()).as(result.err()).isEqualTo(exitCode);
        assertThat(result.err()).isNotBlank().doesNotContain("\tat ").doesNotContain("Exception");
        assertThat(result.out()).isEmpty();
    }

    // Preview.

    @Test
    void previewShowsTheClockChangeAndItsJsonIsPlain() throws Exception {
        Result text = brume("preview", "30 1 * * *", "--zone", "Europe/Lisbon", "--from", "2026-03-28", "--count", "3");
        assertThat(text.exitCode()).isZero();
        assertThat(text.out())
                .contains("At 01:30 every day, Lisbon time")
                .contains("Sun 2026-03-29 02:00:00")
                .contains("AFTER_GAP: 01:30 is skipped that day");

        List<Map<String, Object>> json = brume(
                        "preview",
                        "15 4 * * *",
                        "--zone",
                        "Atlantic/Azores",
                        "--from",
                        "2026-03-27T00:00:00Z",
                        "--count",
                        "10",
                        "--format",
                        "json")
                .jsonList();
        assertThat(json).hasSize(10);
        assertThat(json.get(0))
                .containsEntry("instant", "2026-03-27T05:15:00Z")
                .containsEntry("local", "2026-03-27T04:15:00")
                .containsEntry("zone", "Atlantic/Azores")
                .containsEntry("notes", List.of());
        assertThat(json.get(2)).containsEntry("instant", "2026-03-29T04:15:00Z");
    }

    @Test
    void previewFollowsTheStatedPolicies() throws Exception {
        List<Map<String, Object>> both = brume(
                        "preview",
                        "30 1 25 10 *",
                        "--zone",
                        "Europe/Lisbon",
                        "--from",
                        "2026-10-01T00:00:00Z",
                        "--until",
                        "2026-11-01T00:00:00Z",
                        "--fold",
                        "both",
                        "--format",
                        "json")
                .jsonList();
        assertThat(both)
                .extracting(map -> map.get("instant"), map -> map.get("notes"))
                .containsExactly(
                        org.assertj.core.groups.Tuple.tuple("2026-10-25T00:30:00Z", List.of("FIRST_OF_FOLD")),
                        org.assertj.core.groups.Tuple.tuple("2026-10-25T01:30:00Z", List.of("SECOND_OF_FOLD")));
        assertThat(brume(
                                "preview",
                                "30 1 29 3 *",
                                "--zone",
                                "Europe/Lisbon",
                                "--from",
                                "2026-03-01T00:00:00Z",
                                "--until",
                                "2026-04-01T00:00:00Z",
                                "--gap",
                                "skip",
                                "--format",
                                "json")
                        .jsonList())
                .isEmpty();
        assertThat(brume(
                                "preview",
                                "0 9 13 * FRI",
                                "--zone",
                                "UTC",
                                "--from",
                                "2026-11-01T00:00:00Z",
                                "--count",
                                "1",
                                "--days",
                                "both",
                                "--format",
                                "json")
                        .jsonList()
                        .get(0))
                .containsEntry("instant", "2026-11-13T09:00:00Z");
    }

    @Test
    void aWrongExpressionIsExplainedInOneGo() throws Exception {
        Result result = process("preview", "61 25 * * MONDAY", "--zone", "UTC");

        failsWithoutTrace(result, 2);
        assertThat(result.err())
                .contains("minute: '61' is outside 0-59 (column 1)")
                .contains("hour: '25' is outside 0-23 (column 4)")
                .contains("did you mean MON?");
        assertThat(brume("preview", "0 0 30 2 *").err()).contains("never fires");
        assertThat(brume("preview", "0 9 * * *", "--zone", "Lisbon").err()).contains("did you mean Europe/Lisbon?");
        assertThat(brume("preview", "0 9 * * *", "--count", "0").exitCode()).isEqualTo(2);
        assertThat(brume("preview", "0 9 * * *", "--from", "soon").err()).contains("--from 'soon' is not a time");
    }

    // Definitions.

    @Test
    void everyErrorOfAFileIsReportedWithItsPlaceAndNothingIsStored() throws Exception {
        Files.writeString(file, """
                zone: Atlantic/Azors
                jobs:
                  tide-tables:
                    when: {cron: "15 4 30 2 *"}
                    wrok: {program: [true]}
                  buoys:
                    when:
                      - every: 500ms
                      - cron: "*/5 * * * MONDAY"
                        zone: Europe/Lisbon
                    work: {program: echo}
                    ifBusy: {wait: many}
                  buoys:
                    work: {handler: x}
                """);

        Result result = process("serve", "--definitions", "harbour.yaml");

        failsWithoutTrace(result, 2);
        assertThat(result.err().lines().toList())
                .anyMatch(line -> line.startsWith("harbour.yaml:1:7: ") && line.contains("Atlantic/Azores"))
                .anyMatch(line -> line.startsWith("harbour.yaml:4:") && line.contains("never fires"))
                .anyMatch(line -> line.startsWith("harbour.yaml:5:5: ") && line.contains("did you mean work?"))
                .anyMatch(line -> line.startsWith("harbour.yaml:8:16: ") && line.contains("outside 1s"))
                .anyMatch(line -> line.startsWith("harbour.yaml:9:26: ") && line.contains("did you mean MON?"))
                .anyMatch(line -> line.startsWith("harbour.yaml:11:21: ") && line.contains("expected a list"))
                .anyMatch(line -> line.startsWith("harbour.yaml:12:20: ") && line.contains("whole number"))
                .anyMatch(line -> line.startsWith("harbour.yaml:13:3: ") && line.contains("given twice"))
                .last()
                .asString()
                .contains("nothing was changed");
        assertThat(Files.exists(folder.resolve("brume-data"))).isFalse();
        assertThat(brume("check", "harbour.yaml").exitCode()).isEqualTo(2);
        assertThat(brume("check", "no-such-file.yaml").err()).contains("no-such-file.yaml:1:1: there is no such file");
    }

    @Test
    void checkWarnsOfWhatWillSurprise() throws Exception {
        Files.writeString(file, """
                zone: UTC
                jobs:
                  past: {when: {once: "2020-01-01T00:00"}, work: {program: [true]}}
                  far: {when: {cron: "0 0 29 2 MON", days: both}, work: {program: [true]}}
                  idle: {work: {program: [true]}}
                """);

        Result result = brume("check", "harbour.yaml");
        assertThat(result.exitCode()).isZero();
        assertThat(result.out())
                .contains("WARNING past: 'once: 2020-01-01T00:00' is already past")
                .contains("WARNING far: ")
                .contains("WARNING idle: has no schedule")
                .contains("3 jobs, 0 calendars, 3 warnings");
        assertThat(brume("check", "harbour.yaml", "--strict").exitCode()).isEqualTo(1);
    }

    // Serving and looking.

    @Test
    void anInstanceRunsJobsAndItsHistoryCanBeReadDuringAndAfter() throws Exception {
        try (BrumeProcess serve = BrumeProcess.start(
                folder, "serve", "--definitions", "harbour.yaml", "--name", "quay-1", "--format", "json")) {
            serve.await(BrumeProcess.kindOf("FAILED", "buoys"));
            serve.await(BrumeProcess.kindOf("FAILED", "missing"));
            assertThat(brume("instances").out()).contains("quay-1").contains("OPEN");
            assertThat(brume("instances", "--format", "json").jsonList())
                    .singleElement()
                    .satisfies(instance -> assertThat(instance)
                            .containsEntry("instance", "quay-1")
                            .containsEntry("state", "OPEN"));
            serve.terminate();
            assertThat(serve.result().err()).contains("stopped; all runs had ended");
        }

        assertThat(brume("jobs", "--failing", "--name", "b*").out())
                .contains("buoys  FAILED  ")
                .doesNotContain("tide-tables")
                .doesNotContain("missing");
        assertThat(brume("jobs", "--count", "1").out()).contains("There are more: --after buoys, or --count N");
        assertThat(brume("jobs", "--after", "missing", "--format", "json").jsonList())
                .hasSize(1);
        assertThat(brume("jobs", "--long").out())
                .contains("tide-tables")
                .contains("At 04:15 every day")
                .contains("FAILED")
                .contains("never");
        List<Map<String, Object>> jobs = brume("jobs", "--format", "json").jsonList();
        assertThat(jobs).extracting(job -> job.get("job")).containsExactly("buoys", "missing", "tide-tables");
        assertThat(jobs.get(2)).containsEntry("schedule", "At 04:15 every day, Azores time");

        List<Map<String, Object>> failed = brume("runs", "--job", "buoys", "--outcome", "failed", "--format", "json")
                .jsonList();
        assertThat(failed)
                .isNotEmpty()
                .allSatisfy(run -> assertThat((List<?>) run.get("attempts")).hasSize(2));
        String id = failed.get(0).get("run").toString();
        assertThat(brume("show", id).out())
                .contains("Run " + id + " of buoys  FAILED")
                .contains("Attempt 2  FAILED")
                .contains("exit code 3")
                .contains("quay-1")
                .contains("café \uFFFD")
                .contains("oops")
                .contains("{\"quay\":4}");
        Map<String, Object> shown = brume("show", id, "--format", "json").json();
        assertThat((List<?>) shown.get("attempts")).hasSize(2);

        String missing =
                brume("runs", "--job", "missing", "--outcome", "failed").out();
        assertThat(missing).contains("FAILED");
        assertThat(brume("runs", "--outcome", "failedd").err()).contains("did you mean failed?");
        assertThat(brume("runs", "--job", "no-such-job").exitCode()).isEqualTo(1);
        assertThat(brume("show", "999999").exitCode()).isEqualTo(1);
        assertThat(brume("instances").out()).contains("No instance is alive");
    }

    @Test
    void aJobThatLeftItsFileIsReportedAndCanBeDropped() throws Exception {
        serveUntilJoined();
        Files.writeString(file, HARBOUR.replaceAll("(?s)  missing:.*", ""));
        String err = serveUntilJoined();

        assertThat(err).contains("missing was defined by harbour.yaml and is no longer in it");
        assertThat(brume("drop", "missing").out()).contains("dropped missing");
        assertThat(brume("drop", "missing").exitCode()).isEqualTo(1);
        assertThat(serveUntilJoined()).doesNotContain("no longer in it");
    }

    private String serveUntilJoined() throws Exception {
        try (BrumeProcess serve =
                BrumeProcess.start(folder, "serve", "--definitions", "harbour.yaml", "--format", "json")) {
            serve.await(BrumeProcess.kind("JOINED"));
            serve.terminate();
            return serve.result().err();
        }
    }

    // Trouble.

    @Test
    void troubleHasAMessageAndAnExitCode() throws Exception {
        failsWithoutTrace(process("jobs"), 2);
        assertThat(brume("jobs").err())
                .contains("there is no database in folder")
                .contains("--data FOLDER");
        failsWithoutTrace(
                process("jobs", "--database", "jdbc:postgresql://127.0.0.1:1/none?user=a&password=secret"), 3);
        assertThat(brume("jobs", "--database", "jdbc:postgresql://127.0.0.1:1/none?user=a&password=secret")
                        .err())
                .contains("cannot reach jdbc:postgresql://127.0.0.1:1/none")
                .doesNotContain("secret");
        failsWithoutTrace(brume("jobs", "--database", "jdbc:unknown:x"), 2);
        failsWithoutTrace(brume("serve", "--name", "not a name"), 2);
        failsWithoutTrace(brume("serve", "--lease", "soon"), 2);
        failsWithoutTrace(process("nonsense"), 2);
        Path blocked = Files.writeString(folder.resolve("blocked"), "a file where a folder should be");
        failsWithoutTrace(process("serve", "--data", blocked.toString()), 3);
    }

    @Test
    void theDemoLeavesAFolderThatIsNotItsOwnAlone() throws Exception {
        Path own = Files.createDirectory(folder.resolve("mine"));
        Path letter = Files.writeString(own.resolve("letter.txt"), "precious");

        failsWithoutTrace(process("demo", "--data", "mine"), 2);
        assertThat(letter).hasContent("precious");
    }

    @Test
    void outputIsUtf8UnderAPosixLocale() throws Exception {
        Files.writeString(file, "zone: UTC\njobs:\n  tides:\n    work: {program: [true]}\n    ifBusy: übrig\n");
        Result result = BrumeProcess.run(folder, Map.of("LC_ALL", "POSIX", "LANG", "C"), "check", "harbour.yaml");

        assertThat(result.err()).contains("übrig");
    }

    @Test
    void helpAndSchemasCanBeRead() throws Exception {
        assertThat(brume("--help").out())
                .contains("Exit codes:")
                .contains("preview")
                .contains("serve");
        assertThat(process("--version").out()).startsWith("brume ");
        for (String command : List.of("serve", "drop")) {
            assertThat(brume(command, "--help").out()).as(command).contains("Usage: brume " + command);
        }
        assertThat(brume("help", "jobs").out()).contains("Usage: brume jobs");
        assertThat(brume("schema", "definitions").json()).containsKey("$defs");
        assertThat(brume("schema", "postgresql").out()).contains("create table brume_ledger");
        assertThat(brume("schema", "oracle").exitCode()).isEqualTo(2);
    }
}
