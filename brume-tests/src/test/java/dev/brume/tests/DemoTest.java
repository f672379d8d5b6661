package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.tests.BrumeProcess.Result;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The demo as a newcomer runs it, and the commands it recommends afterwards. */
class DemoTest {
    @TempDir
    private Path folder;

    @Test
    void aNewcomerSeesTheTakeoverTheSkipAndTheRetryAndCanLookAtThemAfterwards() throws Exception {
        Result demo = BrumeProcess.run(folder, "demo");

        assertThat(demo.exitCode()).as(demo.err()).isZero();
        assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(folder.resolve("brume-demo"))))
                .as("nobody else's to read")
                .isEqualTo("rwx------");
        assertThat(demo.out())
                .contains("-- kill -9 quay-")
                .contains("TAKEN_OVER")
                .contains("SKIPPED")
                .contains("BACKING_OFF")
                .contains("everything was seen")
                .contains("jobs --data brume-demo")
                .contains("show ");
        assertThat(BrumeProcess.run(folder, "jobs", "--data", "brume-demo").out())
                .contains("lamp-inspection");
        List<Map<String, Object>> runs = BrumeProcess.run(
                        folder, "runs", "--data", "brume-demo", "--count", "1000", "--format", "json")
                .jsonList();
        assertThat(runs)
                .anySatisfy(run -> assertThat(run).containsEntry("reason", "BUSY"))
                .anySatisfy(run -> {
                    assertThat(run)
                            .containsEntry("job", "minute/lamp-inspection")
                            .containsEntry("outcome", "SUCCEEDED");
                    assertThat((List<?>) run.get("attempts")).hasSize(2);
                });
        assertThat(BrumeProcess.run(folder, "instances", "--all", "--data", "brume-demo")
                        .out())
                .contains("quay-1")
                .contains("quay-2")
                .contains("quay-3");
        theWeekBeforeIsOnRecord();
        whatTheDocumentsShowIsWhatIsPrinted();
        whatProgramsAreToldIsAsTheSchemasSay(runs);
    }

    private void whatProgramsAreToldIsAsTheSchemasSay(List<Map<String, Object>> runs) throws Exception {
        OutputSchemas schemas = new OutputSchemas(folder, "brume-demo");
        String twice = runs.stream()
                .filter(run -> ((List<?>) run.get("attempts")).size() == 2)
                .findFirst()
                .orElseThrow()
                .get("run")
                .toString();
        String skipped = runs.stream()
                .filter(run -> "SKIPPED".equals(run.get("outcome")))
                .findFirst()
                .orElseThrow()
                .get("run")
                .toString();
        schemas.check("jobs", "jobs");
        schemas.check("runs", "runs", "--count", "500");
        schemas.check("runs --spans", "runs", "--spans");
        schemas.check("show", "show", twice);
        assertThat(schemas.check("show", "show", skipped)).contains("\"why\" : \"");
        schemas.check("tally", "tally", "--from", "7d");
        schemas.check("stats", "stats");
        schemas.check("why", "why", "minute/harbour-log");
        schemas.check("doctor", "doctor");
        schemas.check("changes", "changes", "--count", "100");
        schemas.check("instances", "instances", "--all");
        schemas.check("calendars", "calendars");
        schemas.check("named-leases", "named-leases");
        schemas.check("one-off list", "one-off", "list");
        schemas.check("preview", "preview", "--job", "archive-sync", "--count", "3");
        schemas.check("preview --around-transitions", "preview", "--job", "archive-sync", "--around-transitions");
        schemas.check("preview --month", "preview", "--job", "archive-sync", "--month");
        schemas.check("explain", "explain", "--job", "archive-sync");
        schemas.check("rehearse", "rehearse", "brume-demo/harbour.yaml", "--against", "store", "--for", "1d");
        schemas.check("diff", "diff", "brume-demo/harbour.yaml");
        schemas.check("keep", "keep");
        schemas.check("seal", "seal");
        schemas.check("seal head", "seal", "head");
        schemas.check("seal verify", "seal", "verify");
        schemas.check("export ledger", "export", "ledger");
        schemas.check("export changes", "export", "changes");
        schemas.check("pause", "pause", "archive-sync");
        schemas.check("resume", "resume", "archive-sync");
        schemas.check("run-now", "run-now", "archive-sync");
        schemas.check("rerun", "rerun", twice);
        schemas.check("cancel", "cancel", twice);
        schemas.check("skip", "skip", "archive-sync");
        schemas.check("backfill", "backfill", "archive-sync", "--from", "2026-11-20");
        schemas.check("one-off add", "one-off", "add", "bridge-closure", "winter", "--at", "2027-12-24T10:00:00Z");
        schemas.check("one-off move", "one-off", "move", "bridge-closure", "winter", "--at", "2027-12-25T10:00:00Z");
        schemas.check("one-off drop", "one-off", "drop", "bridge-closure", "winter");
        schemas.check("drain", "drain", "quay-9");
        schemas.check("drop", "drop", "archive-sync");
        schemas.check("restored", "restored");
    }

    private void whatTheDocumentsShowIsWhatIsPrinted() throws Exception {
        Listings listings = new Listings(folder.resolve("brume-demo"));
        int commands = 0;
        try (Stream<Path> pages = Files.list(Path.of("../docs"))) {
            for (Path page : pages.filter(each -> each.toString().endsWith(".md"))
                    .sorted()
                    .toList()) {
                commands += listings.check(page);
            }
        }
        assertThat(commands).isGreaterThan(12);
    }

    /** The engine has lived through it, so it is accounted for like any other. */
    private void theWeekBeforeIsOnRecord() throws Exception {
        Result tally = BrumeProcess.run(folder, "tally", "--data", "brume-demo", "--from", "7d", "--format", "json");
        Map<String, Object> all = tally.json();
        assertThat(tally.exitCode()).as("something was missed").isEqualTo(1);
        assertThat((Integer) all.get("onRecord")).isGreaterThan(1000);
        assertThat(all).containsEntry("unexplained", 0);
        assertThat(outputOf("runs", "--on", "quay-1", "--count", "5000", "--from", "220d")
                        + outputOf("runs", "--on", "quay-2", "--count", "5000", "--from", "220d"))
                .as("the last clock change, whichever it was")
                .containsAnyOf("SECOND_OF_FOLD", "AFTER_GAP");
        assertThat(outputOf("changes", "--kind", "LAPSED")).contains("quay-");
        assertThat(outputOf("changes", "--kind", "PAUSED")).contains("divers clean the buoys");
        assertThat(outputOf("runs", "--job", "lamp-inspection", "--from", "7d")).contains("\"attempt\" : 2");
        assertThat(outputOf("stats", "--from", "7d", "--job", "harbour-dues")).contains("FAILED");
    }

    private String outputOf(String... command) throws Exception {
        List<String> words = new ArrayList<>(List.of(command));
        words.addAll(List.of("--data", "brume-demo", "--format", "json"));
        return BrumeProcess.run(folder, words.toArray(String[]::new)).out();
    }
}
