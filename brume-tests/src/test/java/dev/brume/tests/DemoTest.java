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
import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The demo as a newcomer runs it, and the commands it recommends afterwards. */
@Tag("long")
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
        assertThat(Commands.run(folder, "jobs", "--data", "brume-demo").out()).contains("lamp-inspection");
        List<Map<String, Object>> runs = Commands.run(
                        folder, "runs", "--data", "brume-demo", "--count", "1000", "--format", "json")
                .jsonList();
        assertThat(runs).extracting(run -> run.get("reason")).contains("BUSY");
        assertThat(runs.stream().filter(run -> run.get("job").equals("minute/lamp-inspection")))
                .as("one that was lost with its instance, and done by another")
                .anySatisfy(run -> {
                    assertThat(run).containsEntry("outcome", "SUCCEEDED");
                    assertThat((List<?>) run.get("attempts")).hasSizeGreaterThan(1);
                });
        assertThat(Commands.run(folder, "instances", "--all", "--data", "brume-demo")
                        .out())
                .contains("quay-1")
                .contains("quay-2")
                .contains("quay-3");
        theWeekBeforeIsOnRecord();
        whatTheDocumentsShowIsWhatIsPrinted();
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
        Result tally = Commands.run(folder, "tally", "--data", "brume-demo", "--from", "7d", "--format", "json");
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
        return Commands.run(folder, words.toArray(String[]::new)).out();
    }
}
