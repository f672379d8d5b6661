package dev.brume.tests;

import static dev.brume.tests.BrumeProcess.kind;
import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The orders that people give to instances and to the database as a whole, as processes. */
class OrdersCommandTest {
    @TempDir
    private Path folder;

    private Path file(String text) throws Exception {
        return Files.writeString(folder.resolve("harbour.yaml"), text);
    }

    private static final String JOBS = "zone: Atlantic/Azores\nrevision: 7\nlimits: {pilots: 1}\njobs:\n"
            + "  buoys:\n    when: {every: 1s}\n    limits: [pilots]\n    exclusive: mast\n"
            + "    work: {program: [sh, -c, 'echo read']}\n";

    @Test
    void anInstanceIsDrainedFromElsewhereAndItsProcessEnds() throws Exception {
        file(JOBS);
        try (BrumeProcess serve = serve("quay-1")) {
            serve.await(kind("SUCCEEDED"));

            BrumeProcess.Result drained = Commands.run(folder, "drain", "quay-1", "--wait", "60s");

            assertThat(drained.exitCode()).isZero();
            assertThat(drained.out()).contains("draining quay-1").contains("quay-1 has left");
            BrumeProcess.Result ended = serve.result();
            assertThat(ended.exitCode()).isZero();
            assertThat(ended.out()).contains("DRAINING").contains("LEFT");
        }
        BrumeProcess.Result again = Commands.run(folder, "drain", "quay-1");
        assertThat(again.exitCode()).isEqualTo(1);
        assertThat(again.err()).contains("no instance 'quay-1' takes work");

        BrumeProcess.Result restored = Commands.run(folder, "restored");
        assertThat(restored.exitCode()).isZero();
        assertThat(restored.out()).contains("epoch 1");
        assertThat(Commands.run(folder, "restored", "--format", "json").json())
                .containsEntry("done", true)
                .containsEntry("epoch", 2);
    }

    @Test
    void whenTheOwnerOfTheEmbeddedDatabaseLeavesTheOtherInstanceTakesItsPlace() throws Exception {
        file(JOBS);
        try (BrumeProcess owner = serve("quay-1")) {
            owner.await(kind("SUCCEEDED"));
            try (BrumeProcess visitor = serve("quay-2")) {
                visitor.await(kind("JOINED"));
                BrumeProcess.Result drained = Commands.run(folder, "drain", "quay-1");
                assertThat(drained.out()).as(drained.err()).contains("quay-1 has left");
                BrumeProcess.Result left = owner.result();
                assertThat(left.exitCode()).as(left.err()).isZero();

                visitor.await(kind("SUCCEEDED"));
                visitor.await(kind("SUCCEEDED"));
                BrumeProcess.Result instances = Commands.run(folder, "instances");
                assertThat(instances.out())
                        .as(instances.err())
                        .contains("quay-2")
                        .contains("OPEN");
                visitor.terminate();
                assertThat(visitor.result().err()).contains("stopped; all runs had ended");
            }
        }
    }

    private BrumeProcess serve(String name) throws Exception {
        return BrumeProcess.start(
                folder, "serve", "--name", name, "--definitions", "harbour.yaml", "--lease", "10s", "--format", "json");
    }

    @Test
    void aLimitThatIsNotDefinedIsAMistakeOfTheFile() throws Exception {
        file(JOBS.replace("limits: {pilots: 1}\n", ""));

        BrumeProcess.Result refused = BrumeProcess.run(folder, "serve", "--definitions", "harbour.yaml");

        assertThat(refused.exitCode()).isEqualTo(2);
        assertThat(refused.err())
                .contains("names the limit 'pilots', which is not defined")
                .contains("limits: {pilots: N}");
    }

    @Test
    void wrongLimitsAndRevisionsAreReportedWithTheirPlace() throws Exception {
        file(JOBS.replace("revision: 7", "revision: -1").replace("pilots: 1", "pilots: none"));

        BrumeProcess.Result checked = Commands.run(folder, "check", "harbour.yaml");

        assertThat(checked.exitCode()).isEqualTo(2);
        assertThat(checked.err() + checked.out())
                .contains("harbour.yaml:2:")
                .contains("-1 is below 0")
                .contains("harbour.yaml:3:")
                .contains("'none' is not a number of runs at once (expected 1 to 10000, or {starts: N, per: 1m}");
    }
}
