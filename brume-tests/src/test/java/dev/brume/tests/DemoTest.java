package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.tests.BrumeProcess.Result;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
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
                .anySatisfy(run -> assertThat(run)
                        .containsEntry("job", "lamp-inspection")
                        .containsEntry("attempts", 2)
                        .containsEntry("outcome", "SUCCEEDED"));
        assertThat(BrumeProcess.run(folder, "instances", "--all", "--data", "brume-demo")
                        .out())
                .contains("quay-1")
                .contains("quay-2")
                .contains("quay-3");
    }
}
