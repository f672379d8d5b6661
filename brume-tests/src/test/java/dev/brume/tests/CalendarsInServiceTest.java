package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Calendars and chains in an instance that runs as a process of its own. */
class CalendarsInServiceTest {
    private static final String HARBOUR = """
            zone: UTC
            calendars:
              feasts: {dates: [%s]}
            jobs:
              dues:
                when: {cron: "0 9 25 12 *", notOn: feasts, ifDayOff: next}
                work: {program: [echo, dues]}
              sweep:
                when: {afterEnd: 1s}
                work: {program: [echo, swept]}
              bell:
                when: {every: 1s, atMost: 2}
                work: {program: [echo, ding]}
              odd:
                when: {cron: "0 9 * * *", notOn: nobody-knows}
                work: {program: [echo]}
            """;

    @TempDir
    private Path folder;

    @BeforeEach
    void write() throws Exception {
        write("2030-12-25");
    }

    private void write(String dates) throws Exception {
        Files.writeString(folder.resolve("harbour.yaml"), HARBOUR.formatted(dates));
    }

    private static boolean is(Map<String, Object> event, String kind, String job) {
        return kind.equals(event.get("kind")) && job.equals(event.get("job"));
    }

    private static String text(Map<String, Object> event) {
        return String.valueOf(event.get("text"));
    }

    private List<Map<String, Object>> looked(String... command) throws Exception {
        String[] all = new String[command.length + 2];
        System.arraycopy(command, 0, all, 0, command.length);
        all[command.length] = "--format";
        all[command.length + 1] = "json";
        return Commands.run(folder, all).jsonList();
    }

    @Test
    void aChainGoesOnALimitEndsAndAChangedCalendarIsANewVersion() throws Exception {
        try (BrumeProcess serve =
                BrumeProcess.start(folder, "serve", "--definitions", "harbour.yaml", "--format", "json")) {
            serve.await(event -> is(event, "PROBLEM", "odd") && text(event).contains("nobody-knows"));
            for (int i = 0; i < 3; i++) {
                serve.await(event -> is(event, "SUCCEEDED", "sweep"));
            }
        }
        assertThat(looked("calendars"))
                .singleElement()
                .satisfies(calendar -> assertThat(calendar)
                        .containsEntry("calendar", "feasts")
                        .containsEntry("version", 1)
                        .containsEntry("jobs", 1)
                        .containsEntry("last", "2030-12-25"));
        assertThat(looked("runs", "--job", "bell")).hasSize(2);
        assertThat(looked("preview", "--job", "dues", "--from", "2030-12-01", "--count", "1"))
                .singleElement()
                .satisfies(next -> assertThat(next)
                        .containsEntry("instant", "2030-12-26T09:00:00Z")
                        .containsEntry("notes", List.of("MOVED")));

        write("2030-12-25, 2030-12-26");
        try (BrumeProcess serve =
                BrumeProcess.start(folder, "serve", "--definitions", "harbour.yaml", "--format", "json")) {
            serve.await(event -> text(event).contains("because calendar feasts changed"));
            serve.await(event -> is(event, "SUCCEEDED", "sweep"));
        }
        assertThat(looked("preview", "--job", "dues", "--from", "2030-12-01", "--count", "1"))
                .singleElement()
                .satisfies(next -> assertThat(next).containsEntry("instant", "2030-12-27T09:00:00Z"));
        assertThat(looked("runs", "--job", "bell")).hasSize(2);
        assertThat(looked("jobs"))
                .anySatisfy(job -> assertThat(job).containsEntry("job", "dues").containsEntry("version", 2));
    }
}
