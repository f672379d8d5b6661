package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Brume;
import dev.brume.Job;
import dev.brume.jdbc.EmbeddedDatabase;
import dev.brume.jdbc.JdbcStore;
import dev.brume.tests.BrumeProcess.Result;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The commands that say what a change would do before it is made, make it, find what is wrong, and take the record along. */
class ForesightCommandsTest {
    private static final String HARBOUR = """
            revision: %d
            zone: UTC
            limits: {crane: 1}
            jobs:
              tides: {when: {cron: "%s"}, work: {program: ["true"]}}
              lamps: {work: {program: ["true"]}}
            """;

    @TempDir
    private Path folder;

    @BeforeEach
    void prepare() throws Exception {
        write(1, "0 4 * * *");
        try (EmbeddedDatabase database =
                        EmbeddedDatabase.open(folder.resolve("brume-data"), EmbeddedDatabase.Role.HOST);
                Brume office =
                        Brume.on(JdbcStore.on(database)).instance("office").build()) {
            office.define(Job.named("strange")
                    .handler("unknown")
                    .cron("0 1 * * *", "UTC")
                    .build());
        }
        assertThat(brume("sync", "harbour.yaml", "--yes").exitCode()).isZero();
    }

    private void write(int revision, String cron) throws Exception {
        Files.writeString(folder.resolve("harbour.yaml"), HARBOUR.formatted(revision, cron));
    }

    private Result brume(String... command) throws Exception {
        return Commands.run(folder, command);
    }

    @Test
    void aChangeIsShownBeforeItIsMadeAndOnRecordAfterwards() throws Exception {
        assertThat(brume("diff", "harbour.yaml").exitCode()).isZero();
        write(2, "0 4,16 * * *");
        Files.writeString(
                folder.resolve("harbour.yaml"),
                Files.readString(folder.resolve("harbour.yaml")).replace("  lamps: {work", "  quay: {work"));

        Result diff = brume("diff", "harbour.yaml");
        assertThat(diff.exitCode()).isEqualTo(1);
        assertThat(diff.out())
                .contains("~ tides  version 1 -> 2")
                .contains("- when: [{cron: 0 4 * * *")
                .contains("in the next 7d: 7 -> 14 occurrences")
                .contains("+ quay  new")
                .contains("- lamps  no longer in the file (version 1)")
                .contains("revision 2, in force: 1");
        Files.writeString(folder.resolve("port.yaml"), HARBOUR.formatted(1, "0 4 * * *"));
        assertThat(brume("diff", "port.yaml").out())
                .contains("jobs  defined by harbour.yaml so far, otherwise as they are (was the file renamed?")
                .doesNotContain("~ tides");
        Files.writeString(
                folder.resolve("one.yaml"),
                "zone: UTC\njobs: {buoys: {when: {cron: '0 5 * * *'}, work: {program: ['true']}}}");
        assertThat(brume("rehearse", "one.yaml", "--against", "store", "--for", "2d")
                        .out())
                .as("jobs of other files stay as they are")
                .containsPattern("buoys +- -> 2")
                .doesNotContainPattern("tides +.*-> -");
        Result unasked = brume("sync", "harbour.yaml");
        assertThat(unasked.exitCode()).isEqualTo(2);
        assertThat(unasked.err()).contains("there is nobody to ask here; say --yes");
        assertThat(brume("diff", "harbour.yaml").exitCode()).isEqualTo(1);

        Result done = brume("sync", "harbour.yaml", "--yes", "--because", "summer", "--as", "mara", "--format", "json");
        assertThat(done.exitCode()).isZero();
        Map<String, Object> json = done.json();
        assertThat(json).containsEntry("result", "done");
        assertThat((List<?>) json.get("changeLines")).hasSize(3);
        assertThat(brume("changes", "--who", "mara").flat())
                .contains("DROPPED lamps")
                .contains("because: summer");
        assertThat(brume("sync", "harbour.yaml").out()).contains("nothing to change");
        write(1, "0 4 * * *");
        Result older = brume("sync", "harbour.yaml", "--yes");
        assertThat(older.exitCode()).isEqualTo(1);
        assertThat(older.err()).contains("revision 1 of harbour.yaml is older than 2");
    }

    @Test
    void theDoctorFindsWhatIsWrongAndALookCanBeRepeated() throws Exception {
        Result nobody = brume("doctor");
        assertThat(nobody.exitCode()).isEqualTo(1);
        assertThat(nobody.out())
                .contains("PROBLEM  instances: no instance is alive")
                .contains("-> start one: brume serve");
        try (BrumeProcess serve = BrumeProcess.start(folder, "serve", "--format", "json")) {
            serve.await(event -> "JOINED".equals(event.get("kind")));
            Result lines = brume("jobs", "--watch", "500ms", "--times", "2", "--format", "json");
            assertThat(lines.out().lines()).hasSize(2).allMatch(line -> line.startsWith("[{\"job\":"));
            Result watched = brume("doctor", "--watch", "500ms", "--times", "2");
            assertThat(watched.out())
                    .contains("nobody to run it: strange: no live instance that serves the lane")
                    .containsPattern("(?s)brume doctor, every 500ms.*brume doctor, every 500ms");
            List<?> findings =
                    (List<?>) brume("doctor", "--format", "json").json().get("findings");
            assertThat(findings).isNotEmpty();
            serve.terminate();
            serve.result();
        }
        assertThat(brume("drop", "strange", "--because", "never built").exitCode())
                .isZero();
        assertThat(brume("jobs", "--times", "2").err()).contains("--times belongs to --watch");
    }

    @Test
    void aRehearsalShowsWhatIsToComeAndBesideItWhatWouldHaveBeen() throws Exception {
        Result alone = brume("rehearse", "harbour.yaml", "--for", "3d", "--takes", "tides=30m");
        assertThat(alone.exitCode()).as(alone.err()).isZero();
        assertThat(alone.out().replaceAll("\\s+", " "))
                .contains("work takes as long as measured for 0 jobs, as stated for 1")
                .contains("3 runs in all; all 2 jobs on time every time")
                .contains("main at most 1 of 16 workers busy at once, 0.1 % of all their time");
        Files.writeString(folder.resolve("new.yaml"), HARBOUR.formatted(2, "*/20 4 * * *"));
        Result beside = brume(
                "rehearse",
                "new.yaml",
                "--against",
                "harbour.yaml",
                "--for",
                "1d",
                "--takes",
                "30m",
                "--format",
                "json");
        Map<?, ?> tides = (Map<?, ?>) ((List<?>) beside.json().get("jobs")).get(1);
        assertThat(tides.get("job")).isEqualTo("tides");
        assertThat(tides.get("runs")).isEqualTo(2);
        assertThat(tides.get("skipped")).isEqualTo(Map.of("BUSY", 1));
        assertThat(beside.json().get("before")).isNotNull();
        assertThat(brume("rehearse", "store", "--for", "1d").out()).contains("Rehearsed store from ");
        assertThat(brume("rehearse", "harbour.yaml", "--for", "0s").err()).contains("--for 0s is outside 1s to 3660d");
    }

    @Test
    void theRecordIsSealedCheckedAndTakenAlong() throws Exception {
        assertThat(brume("seal", "verify").exitCode()).isEqualTo(1);
        assertThat(brume("seal").out()).startsWith("sealed; the newest seal is 1:");
        Files.writeString(folder.resolve("head"), brume("seal", "head").out());
        Result checked = brume("seal", "verify", "--head", "head");
        assertThat(checked.exitCode()).isZero();
        assertThat(checked.out()).startsWith("All is as it was sealed.");
        assertThat(brume("seal", "verify", "--head", "nonsense").err())
                .contains("--head 'nonsense' is neither a head (expected N:DIGEST) nor a file");

        brume("export", "changes", "--format", "csv", "--cursor-to", "cursor", "--to", "changes.csv");
        assertThat(folder.resolve("changes.csv"))
                .content()
                .startsWith("line,at,kind,who,host,job,versionBefore,versionAfter,text,because\r\n");
        String cursor = Files.readString(folder.resolve("cursor")).strip();
        assertThat(brume("skip", "tides", "--format", "json").json())
                .containsEntry("done", true)
                .containsKey("skipped");
        Result second = brume("export", "changes", "--after", cursor);
        assertThat(second.out().lines()).singleElement().asString().contains("\"job\":\"tides\"");
        assertThat(brume("export", "ledger", "--after", cursor).err())
                .contains("--after: cursor '" + cursor
                        + "' is the cursor of an export of changes, and this one is of ledger");
        Result ledger = brume("export", "ledger");
        assertThat(ledger.out()).contains("\"outcome\":\"SKIPPED\"").contains("\"reason\":\"BY_HAND\"");
        assertThat(brume("export", "ledger", "--after", "x").err()).contains("'x' is not the cursor of an export");
        assertThat(brume("export", "ledger", "--to", "nowhere/ledger").err())
                .contains("--to nowhere/ledger cannot be written: there is no folder ");
        Result cutOff = BrumeProcess.runInto(Path.of("/dev/full"), folder, "export", "ledger");
        assertThat(cutOff.exitCode()).isEqualTo(5);
        assertThat(cutOff.err()).contains("No space left").doesNotContain("cursor:");
    }

    @Test
    void aCrontabBecomesADefinitionFile() throws Exception {
        Files.writeString(folder.resolve("crontab.txt"), "# Tides\n15 4 * * * /opt/tides.sh\n@reboot x\n");

        Result imported = brume("import", "crontab.txt", "--zone", "Atlantic/Azores", "--to", "jobs.yaml");

        assertThat(imported.exitCode()).isEqualTo(1);
        assertThat(imported.err())
                .contains("crontab.txt:3: LEFT OUT @reboot has no counterpart")
                .contains("1 job made of crontab.txt; 1 line left out");
        assertThat(brume("check", "jobs.yaml").exitCode()).isZero();
        assertThat(brume("diff", "jobs.yaml").out())
                .contains("~ tides  version 1 -> 2; defined by harbour.yaml so far");
        assertThat(brume("import", "missing.txt").err()).contains("missing.txt: there is no such file");
    }

    @Test
    void aJobOfAnotherFileIsTakenOverOnPurposeOnly() throws Exception {
        Files.writeString(
                folder.resolve("other.yaml"),
                "jobs:\n  tides:\n    when: {every: 1h}\n    work: {program: [date]}\n"
                        + "  chart: {work: {handler: chart}}\n  notice: {work: {handler: chart}}\n");

        Result refused = brume("sync", "other.yaml", "--yes");
        assertThat(refused.exitCode()).isEqualTo(2);
        assertThat(refused.err())
                .contains(
                        "tides (by harbour.yaml) is defined elsewhere so far; say --take-over to have other.yaml define it");
        Result served = brume("serve", "--definitions", "other.yaml");
        assertThat(served.exitCode()).isEqualTo(2);
        assertThat(served.err()).contains("say --take-over");
        assertThat(brume("serve", "--definitions", "other.yaml", "--definitions", "harbour.yaml")
                        .err())
                .contains("tides is defined by other.yaml:2 and by harbour.yaml:");

        assertThat(brume("sync", "other.yaml", "--yes", "--take-over").exitCode())
                .isZero();
        assertThat(brume("changes", "--job", "tides").flat()).contains("CHANGED tides version 1 -> 2");
    }

    @Test
    void oneOffsMayBeOrderedWithAReason() throws Exception {
        assertThat(brume(
                                "one-off",
                                "add",
                                "lamps",
                                "lamp-7",
                                "--at",
                                "2099-01-01T00:00:00Z",
                                "--because",
                                "new lamp",
                                "--as",
                                "ines")
                        .exitCode())
                .isZero();

        assertThat(brume("changes", "--who", "ines").flat())
                .contains("ONE_OFF_ADDED")
                .contains("because: new lamp");
    }
}
