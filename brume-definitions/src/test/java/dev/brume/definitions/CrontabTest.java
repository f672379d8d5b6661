package dev.brume.definitions;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Work;
import dev.brume.schedule.Schedule;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What a crontab becomes, read back as the definition file it is made into. */
class CrontabTest {
    private static final ZoneId AZORES = ZoneId.of("Atlantic/Azores");

    private static Crontab.Imported read(String text) {
        return read(text, Crontab.Form.OWN);
    }

    private static Crontab.Imported read(String text, Crontab.Form form) {
        return Crontab.read(List.of(new Crontab.Source("crontab.txt", text)), form, AZORES, "");
    }

    private static Map<String, Job> jobs(Crontab.Imported imported) {
        return DefinitionFile.parse("jobs.yaml", "jobs.yaml", imported.yaml()).jobs().stream()
                .collect(Collectors.toMap(job -> job.name().name(), job -> job));
    }

    private static List<String> command(Job job) {
        return ((Work.Program) job.work()).command();
    }

    @Test
    void entriesCommentsAndEnvironmentAreBroughtOver() {
        Crontab.Imported imported = read("""
                # The office's own.

                PATH="/opt/bin:/bin"
                SHELL=/bin/bash
                # Tide tables,
                # for the board
                15 4 * * *   /opt/harbour/tides.sh --board
                @daily /opt/harbour/tides.sh
                CRON_TZ=Europe/Lisbon
                0 6 * * 1-5 cd /srv && ./rosters.py
                """);

        Map<String, Job> jobs = jobs(imported);
        assertThat(jobs).containsOnlyKeys("tides", "tides-2", "rosters");
        assertThat(imported.notes()).isEmpty();
        Job tides = jobs.get("tides");
        assertThat(tides.description()).isEqualTo("Tide tables, for the board");
        assertThat(command(tides)).containsExactly("/bin/bash", "-c", "/opt/harbour/tides.sh --board");
        assertThat(((Work.Program) tides.work()).environment()).containsEntry("PATH", "/opt/bin:/bin");
        assertThat(jobs.get("tides-2").description()).isEmpty();
        assertThat(jobs.values().stream()
                        .collect(Collectors.toMap(
                                job -> job.name().name(),
                                job -> job.schedules().stream()
                                        .map(Schedule::zone)
                                        .toList())))
                .containsEntry("tides", List.of(AZORES))
                .containsEntry("rosters", List.of(ZoneId.of("Europe/Lisbon")));
    }

    @Test
    void percentSignsAreInputUnlessEscaped() {
        Job job = jobs(read("0 6 * * * mail -s \"100\\%\" pilots%Dear pilots,%your rosters.%"))
                .get("mail");

        assertThat(command(job).get(2)).isEqualTo("printf '%s' \"$BRUME_PAYLOAD\" | { mail -s \"100%\" pilots\n}");
        assertThat(job.payload()).contains("Dear pilots,\nyour rosters.\n");
        assertThat(jobs(read("0 6 * * * cat%one line")).get("cat").payload()).contains("one line\n");
    }

    @Test
    void theSystemsFormNamesAUser() {
        Crontab.Imported imported =
                read("17 * * * * root run-parts /etc\n5 4 * * * backup save.sh\n", Crontab.Form.DETECTED);

        assertThat(command(jobs(imported).get("etc")).get(2)).isEqualTo("run-parts /etc");
        assertThat(imported.notes())
                .singleElement()
                .satisfies(note -> assertThat(note.text()).startsWith("save ran as the user 'backup'"));
        assertThat(read("17 * * * * lonely\n", Crontab.Form.SYSTEM)
                        .notes()
                        .get(0)
                        .leftOut())
                .isTrue();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            @reboot /opt/start.sh           | @reboot has no counterpart
            30 25 * * * never               | hour: '25' is outside 0-23
            10~20 4 * * * x                 | has a random time (~)
            bogus                           | is no entry
            RANDOM_DELAY=5                  | RANDOM_DELAY is not brought over
            CRON_TZ=Mars/Base               | CRON_TZ:
            1 2 3 4 5 %input                | has no command
            """)
    void whatCannotBeBroughtOverIsLeftOutWithTheReason(String line, String reason) {
        Crontab.Imported imported = read("# about it\n" + line + "\n");

        assertThat(imported.jobs()).isZero();
        assertThat(imported.notes()).singleElement().satisfies(note -> {
            assertThat(note.line()).isEqualTo(2);
            assertThat(note.leftOut()).isTrue();
            assertThat(note.text()).contains(reason);
        });
        assertThat(jobs(imported)).isEmpty();
    }

    @Test
    void theOtherFormIsToldByItsUsers() {
        Crontab.Imported asSystem = read("15 4 * * * /opt/tides.sh --board\n", Crontab.Form.SYSTEM);
        Crontab.Imported asUser = read("15 4 * * * root /opt/tides.sh --board\n");

        assertThat(asSystem.jobs()).isZero();
        assertThat(asSystem.notes())
                .singleElement()
                .satisfies(note -> assertThat(note.text()).contains("'/opt/tides.sh' is no user's name", "--form own"));
        assertThat(asUser.notes())
                .singleElement()
                .satisfies(note -> assertThat(note.text()).contains("then say --form system"));
    }

    @Test
    void namesThatYamlTakesForSomethingElseAreQuoted() {
        Crontab.Imported imported = read("1 1 * * * /bin/true\n2 2 * * * /opt/7zip\n3 3 * * * /bin/no\n");

        assertThat(imported.yaml()).contains("\n  \"true\":", "\n  \"7zip\":", "\n  \"no\":");
        assertThat(jobs(imported)).containsOnlyKeys("true", "7zip", "no");
    }

    @Test
    void dayFieldsThatBeginWithAStarAreMeantAsCronMeansThem() {
        Crontab.Imported imported = read("0 9 */2 * MON lamps\n0 9 13 * FRI dues\n0 9 * * MON buoys\n");

        assertThat(imported.notes()).isEmpty();
        assertThat(imported.yaml())
                .contains("{cron: \"0 9 */2 * MON\", days: both}")
                .contains("{cron: \"0 9 13 * FRI\"}")
                .contains("{cron: \"0 9 * * MON\"}");
        assertThat(jobs(imported).get("lamps").name()).isEqualTo(JobName.parse("lamps"));
    }

    @ParameterizedTest
    @CsvSource(delimiter = '!', textBlock = """
            [ -x /usr/sbin/tides ] && /usr/sbin/tides --board                                     ! tides
            test -x /usr/sbin/later || ( cd / && run-parts --report /etc/cron.daily )             ! cron-daily
            if [ -x /opt/check ] && [ $(date +%d) -le 7 ]; then /opt/check --all; fi              ! check
            cd /srv/harbour && nice -n 10 flock -n /run/dues.lock timeout 30m ./dues.py --month   ! dues
            command -v lamps >/dev/null && PATH=/opt/bin lamps -q                                 ! lamps
            sudo -u harbour /usr/bin/python3 -m rosters                                           ! rosters
            /usr/bin/java -jar /opt/ferry-board.jar                                               ! ferry-board
            sh -c "sleep 5; /opt/fog.sh"                                                          ! fog
            echo high water | mail -s tides office                                                ! echo
            [ 1 = 1 ]                                                                             ! job
            """)
    void aJobIsNamedAfterTheProgramThatDoesTheWork(String command, String name) {
        assertThat(jobs(read("0 6 * * * " + command.strip().replace("%", "\\%") + "\n")))
                .containsOnlyKeys(name);
    }

    @Test
    void severalFilesBecomeOneWhoseNamesDoNotCollide() {
        Crontab.Imported imported = Crontab.read(
                List.of(
                        new Crontab.Source("tides", "SHELL=/bin/bash\nMAILTO=office\n1 1 * * * root /opt/save\n"),
                        new Crontab.Source("lamps", "2 2 * * * /opt/save --lamps\n")),
                Crontab.Form.DETECTED,
                AZORES,
                "quay-");

        Map<String, Job> jobs = jobs(imported);
        assertThat(jobs).containsOnlyKeys("quay-save", "quay-save-2");
        assertThat(command(jobs.get("quay-save"))).containsExactly("/bin/bash", "-c", "/opt/save");
        assertThat(command(jobs.get("quay-save-2")))
                .as("a shell of its own file")
                .startsWith("sh");
        assertThat(imported.notes()).singleElement().satisfies(note -> {
            assertThat(note.file()).isEqualTo("tides");
            assertThat(note.leftOut()).as("mail is no loss").isFalse();
        });
    }
}
