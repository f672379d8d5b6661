package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.history.Pause;
import dev.brume.jdbc.EmbeddedDatabase;
import dev.brume.jdbc.JdbcStore;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The commands that say who changed what, why a job does not run, and who has which lease. */
class AskingCommandsTest {
    @TempDir
    private Path folder;

    @BeforeEach
    void prepare() {
        try (EmbeddedDatabase database =
                        EmbeddedDatabase.open(folder.resolve("brume-data"), EmbeddedDatabase.Role.HOST);
                Brume office =
                        Brume.on(JdbcStore.on(database)).instance("office").build()) {
            office.define(
                    Job.named("tides").cron("0 4 * * *", "UTC").program("true").build());
            office.define(Job.named("tides")
                    .cron("0 5 * * *", "UTC")
                    .priority(7)
                    .program("true")
                    .build());
            office.define(Job.named("lamps").program("true").build());
            office.orders("anna", "new lamp").pause(Pause.Scope.of(JobName.parse("lamps")));
            office.takeLease("dues-export", Duration.ofMinutes(1), Duration.ofHours(26))
                    .orElseThrow()
                    .close();
        }
    }

    @Test
    void changesShowWhoAndWhyAndWhatIsDifferentPageByPage() throws Exception {
        BrumeProcess.Result first = Commands.run(folder, "changes", "--count", "2");
        assertThat(first.flat())
                .contains("PAUSED")
                .contains("by anna from ")
                .contains("because: new lamp")
                .contains("DEFINED lamps version 1")
                .doesNotContain("CHANGED");
        String before = first.flat().replaceAll(".*--below (\\d+).*", "$1");
        BrumeProcess.Result second = Commands.run(folder, "changes", "--below", before, "--job", "tides");
        assertThat(second.flat())
                .contains("CHANGED tides version 1 -> 2")
                .contains("+ priority: 7")
                .contains("- when: [{cron: 0 4 * * *")
                .contains("+ when: [{cron: 0 5 * * *")
                .doesNotContain("lamps");
        List<Map<String, Object>> json = Commands.run(folder, "changes", "--kind", "PAUSED", "--format", "json")
                .jsonList();
        assertThat(json).hasSize(1);
        assertThat(json.get(0)).containsEntry("who", "anna").containsEntry("because", "new lamp");
    }

    @Test
    void whySaysItInOneSentenceAndHelpsWithNames() throws Exception {
        assertThat(Commands.run(folder, "why", "lamps").out())
                .startsWith("It is paused: anna paused job lamps at ")
                .contains("because: new lamp.")
                .contains("version      1, in force since ");
        assertThat(Commands.run(folder, "why", "tides", "--at", "2026-01-01T05:00:00Z")
                        .out())
                .startsWith("The job was not defined yet at ");
        assertThat(Commands.run(folder, "why", "tides", "--at", "2026-01-01T05:00:00Z", "--format", "json")
                        .json())
                .containsEntry("job", "tides")
                .containsEntry("code", "NOT_DEFINED")
                .containsEntry("at", "2026-01-01T05:00:00Z")
                .containsEntry("runs", List.of());
        BrumeProcess.Result unknown = Commands.run(folder, "why", "tide");
        assertThat(unknown.exitCode()).isEqualTo(1);
        assertThat(unknown.err()).contains("there is no job 'tide'; did you mean tides?");
        BrumeProcess.Result future = Commands.run(folder, "why", "tides", "--at", "2099-01-01T05:00:00Z");
        assertThat(future.exitCode()).isEqualTo(2);
        assertThat(future.err()).contains("is still to come; brume preview --job tides");
    }

    @Test
    void leasesShowWhoHasThemAndFromWhenTheyCanBeTakenAgain() throws Exception {
        assertThat(Commands.run(folder, "named-leases").out())
                .containsPattern("dues-export +COOLING +office")
                .contains("in 1d2h");
        assertThat(Commands.run(folder, "named-leases", "--format", "json")
                        .jsonList()
                        .get(0))
                .containsEntry("state", "COOLING")
                .containsEntry("holder", "office");
    }
}
