package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.tests.BrumeProcess.Result;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Looking at times before they are trusted: preview, explain, check, on files with calendars and rules. */
class TimeCommandsTest {
    private static final String FEASTS = """
            BEGIN:VCALENDAR
            VERSION:2.0
            BEGIN:VEVENT
            UID:lantern@merrow.example
            DTSTART;VALUE=DATE:20261224
            DTEND;VALUE=DATE:20261227
            RRULE:FREQ=YEARLY
            SUMMARY:Lantern days
            END:VEVENT
            END:VCALENDAR
            """;
    private static final String HARBOUR = """
            zone: Atlantic/Azores
            calendars:
              feasts: {file: feasts.ics}
              office-days: {weekly: MON-FRI}
            jobs:
              harbour-dues:
                when: {cron: "0 9 L * *", onlyOn: office-days, notOn: [feasts], ifDayOff: previous}
                work: {program: [echo, dues]}
              night-watch-report:
                when: {cron: "30 0 * * *"}
                work: {program: [echo, quiet]}
                spread: 10m
              reef-sweep:
                when: {afterEnd: 10m, window: "00:00-24:00"}
                work: {program: [echo, swept]}
              regatta:
                when:
                  - rule: |
                      DTSTART;TZID=America/Halifax:20270612T090000
                      RRULE:FREQ=YEARLY;BYMONTH=6;BYDAY=2SA
                  - {once: in 10m}
                work: {program: [echo, ahoy]}
            """;

    @TempDir
    private Path folder;

    @Test
    void checkTellsWhatItDidNotUnderstandOfACalendarAndOfARule() throws Exception {
        Files.writeString(
                folder.resolve("feasts.ics"), FEASTS.replace("SUMMARY:Lantern days", "SUMMARY:Lantern days\nand more"));
        Files.writeString(folder.resolve("harbour.yaml"), HARBOUR.replace("20270612T090000", "20270105T090000"));

        Result check = Commands.run(folder, "check", "harbour.yaml", "--strict");

        assertThat(check.exitCode()).as("warnings").isEqualTo(1);
        assertThat(check.out())
                .contains("harbour.yaml:3: WARNING ")
                .contains("feasts.ics': line 9 is no line of iCalendar and was left out: 'and more'")
                .contains("regatta: a rule does not name its own DTSTART, which is owed all the same");
    }

    @BeforeEach
    void writeFiles() throws Exception {
        Files.writeString(folder.resolve("feasts.ics"), FEASTS.replace("\n", "\r\n"));
        Files.writeString(folder.resolve("harbour.yaml"), HARBOUR);
    }

    /** Long lines are broken between words. */
    private static String unbroken(Result result) {
        return result.out().replaceAll("\\s+", " ");
    }

    private Result brume(String... args) throws Exception {
        return Commands.run(folder, args);
    }

    private static void failsWith(Result result, String message) {
        assertThat(result.exitCode()).isEqualTo(2);
        assertThat(result.err()).contains(message).doesNotContain("\tat ").doesNotContain("Exception");
        assertThat(result.out()).isEmpty();
    }

    @Test
    void previewOfAJobGoesByItsCalendarsAndSaysWhatTheyMoved() throws Exception {
        Result result = brume(
                "preview", "--file", "harbour.yaml", "--job", "harbour-dues", "--from", "2027-01-01", "--count", "2");

        assertThat(result.exitCode()).isZero();
        assertThat(unbroken(result)).contains("only on the days of office-days, not on the days of feasts");
        assertThat(result.out()).contains("Fri 2027-01-29 09:00:00  2027-01-29T10:00:00Z  MOVED: Sun 31 Jan is off");
        assertThat(brume(
                                "preview",
                                "--file",
                                "harbour.yaml",
                                "--job",
                                "harbour-dues",
                                "--from",
                                "2027-01-01",
                                "--count",
                                "1",
                                "--format",
                                "json")
                        .jsonList())
                .containsExactly(Map.of(
                        "job", "harbour-dues",
                        "instant", "2027-01-29T10:00:00Z",
                        "local", "2027-01-29T09:00:00",
                        "zone", "Atlantic/Azores",
                        "notes", List.of("MOVED"),
                        "nominal", "2027-01-31T09:00:00"));
    }

    @Test
    void previewOfAFileNamesTheJobsAndAnOrderlyTable() throws Exception {
        Result result = brume("preview", "-f", "harbour.yaml", "--count", "6");

        assertThat(result.out())
                .startsWith("JOB")
                .containsPattern("reef-sweep .* ESTIMATED: depends on when a run ends")
                .containsPattern("night-watch-report .* SPREAD")
                .containsPattern("regatta ");
        assertThat(result.out().lines()).hasSize(7);
    }

    @Test
    void aroundTransitionsShowsTheDaysOnWhichClocksChange() throws Exception {
        Result result = brume(
                "preview", "30 1 * * *", "--zone", "Europe/Lisbon", "--from", "2026-01-01", "--around-transitions");

        assertThat(result.out())
                .contains("Sun 2026-03-29, Europe/Lisbon: clocks go forward by 1h, from 01:00 to 02:00")
                .contains("once that day, as on the same day a week before")
                .contains("2026-03-29T01:00:00Z  AFTER_GAP: 01:30 is skipped that day")
                .contains("Sun 2026-10-25, Europe/Lisbon: clocks go back by 1h")
                .contains("FIRST_OF_FOLD: 01:30 comes twice that day");
        assertThat(brume("preview", "0 * * * *", "--zone", "UTC", "--around-transitions")
                        .out())
                .contains("The clocks of UTC do not change within two years.");
        assertThat(brume(
                                "preview",
                                "*/30 * * * *",
                                "--zone",
                                "Europe/Lisbon",
                                "--from",
                                "2026-01-01",
                                "--around-transitions",
                                "--format",
                                "json")
                        .jsonList())
                .extracting(day -> day.get("date"), day -> day.get("owed"), day -> day.get("owedAWeekBefore"))
                .startsWith(
                        org.assertj.core.groups.Tuple.tuple("2026-03-29", 46, 48),
                        org.assertj.core.groups.Tuple.tuple("2026-10-25", 50, 48));
    }

    @Test
    void monthIsACalendarOfWhatIsDue() throws Exception {
        Result result = brume(
                "preview", "30 0 * * *", "--zone", "Atlantic/Azores", "--month", "2027-03", "--from", "2026-01-01");

        assertThat(result.out())
                .contains("March 2027, Atlantic/Azores")
                .contains("27 00:30   28!01:00")
                .contains("! 2027-03-28 01:00  AFTER_GAP: 00:30 is skipped that day");
        assertThat(brume("preview", "0 0 * * *", "--month", "March").err())
                .contains("is not a month (expected 2027-03)");
    }

    @Test
    void icsIsACalendarFile() throws Exception {
        Result result = brume(
                "preview", "-f", "harbour.yaml", "--job", "regatta", "--until", "2030-01-01", "--ics", "regatta.ics");

        assertThat(result.out()).contains("regatta.ics: 4 events");
        assertThat(Files.readString(folder.resolve("regatta.ics")))
                .contains(
                        "BEGIN:VCALENDAR\r\n", "VERSION:2.0\r\n", "DTSTART:20270612T120000Z\r\n", "SUMMARY:regatta\r\n")
                .contains("END:VCALENDAR\r\n");
        failsWith(brume("preview", "0 9 * * *", "--ics", "no/such/x.ics"), "there is no folder");
        failsWith(brume("preview", "0 9 * * *", "--month", "--ics", "x.ics"), "--ics goes with neither");
        failsWith(brume("preview", "2020-01-01", "--zone", "UTC", "--ics", "x.ics"), "nothing is due in that period");
    }

    @Test
    void explainShowsEachFieldAndEachPolicyWithItsReason() throws Exception {
        Result result = brume("explain", "15 4 13 * MON-FRI", "--zone", "Atlantic/Azores");

        assertThat(unbroken(result))
                .startsWith("At 04:15 on the 13th and also on workdays (Monday to Friday) (either is enough)")
                .containsPattern("day-of-week MON-FRI Monday, Tuesday, Wednesday, Thursday, Friday")
                .contains("a day that matches either is enough (POSIX)")
                .contains("after: a local time that clocks skip is owed once, right after (by default")
                .contains("clocks go forward by 1h at 2027-03-28T01:00:00Z");
        assertThat(brume("explain", "-f", "harbour.yaml", "--job", "harbour-dues")
                        .out())
                .containsPattern("day-of-month +L +the last day of the month")
                .contains("notOn         feasts (225 dates to 2100-12-26)")
                .contains("onlyOn        office-days (Mon Tue Wed Thu Fri)")
                .contains("previous: moved to the working day before");
        assertThat(brume("explain", "0 6 * * MON", "--zone", "UTC", "--format", "json")
                        .jsonList())
                .singleElement()
                .satisfies(subject -> assertThat(subject).containsEntry("words", "At 06:00 on Mondays, UTC"));
    }

    @Test
    void checkFindsWhatWillSurprise() throws Exception {
        Files.writeString(folder.resolve("mistakes.yaml"), """
                zone: CET
                calendars:
                  old-feasts: {dates: [2025-12-24]}
                jobs:
                  lamp-inspection:
                    when: {cron: "0 9 13 * FRI", zone: Europe/Lisbon}
                    work: {program: [echo]}
                  fog-signal-test:
                    when: {cron: "*/5 * * * * *"}
                    work: {program: [echo]}
                  bridge-closure:
                    when: {once: "2025-05-14T06:00", zone: America/Halifax}
                    work: {program: [echo]}
                  never:
                    when: {cron: "0 9 * * *", zone: UTC, window: "10:00-11:00", notOn: [old-feasts, island-days]}
                    work: {program: [echo]}
                  night-watch-report:
                    when: {cron: "30 1 * * *", zone: Europe/Lisbon, gap: skip, fold: both}
                    work: {program: [echo]}
                  offset:
                    when: {cron: "0 12 * * *", zone: "+01:00"}
                    work: {program: [echo]}
                  a: {when: {cron: "@hourly", zone: UTC}, work: {program: [echo]}}
                  b: {when: {cron: "@hourly", zone: UTC}, work: {program: [echo]}}
                  c: {when: {cron: "@hourly", zone: UTC}, work: {program: [echo]}}
                  d: {when: {cron: "@hourly", zone: UTC}, work: {program: [echo]}}
                  e: {when: {cron: "@hourly", zone: UTC}, work: {program: [echo]}}
                """);
        Result result = brume("check", "mistakes.yaml");

        assertThat(result.exitCode()).isZero();
        assertThat(result.out())
                .contains(
                        "mistakes.yaml:5: WARNING lamp-inspection: '0 9 13 * FRI' restricts day-of-month and day-of-week")
                .contains(
                        "zone CET is an abbreviation and names no place; say the region whose clocks are meant, such as"
                                + " Europe/Paris")
                .contains("17,280 times a day")
                .contains("'once: 2025-05-14T06:00' is already past")
                .contains("'0 9 * * *' never fires: its terms leave no occurrence")
                .contains("calendar 'old-feasts' has no dates after 2025-12-24")
                .contains("calendar 'island-days' is not defined here")
                .containsPattern("'30 1 \\* \\* \\*' runs twice on \\d{4}-10-\\d\\d")
                .containsPattern("does not run at all on \\d{4}-03-\\d\\d")
                .contains("zone +01:00 is a fixed offset, which knows no summer time")
                .contains("5 jobs are due on the same second")
                .contains("add spread: 10m")
                .contains("11 jobs, 1 calendar, 11 warnings");
        assertThat(brume("check", "mistakes.yaml", "--strict").exitCode()).isEqualTo(1);
        assertThat(brume("check", "harbour.yaml", "--strict").out()).contains("4 jobs, 2 calendars, 0 warnings");
    }

    @Test
    void whatIsWrongManyTimesIsSaidThriceAndCounted() throws Exception {
        Files.writeString(
                folder.resolve("many.yaml"),
                IntStream.range(0, 6)
                        .mapToObj(i -> "  past-" + i + ": {when: {once: \"2025-05-0" + (i + 1)
                                + "T06:00\", zone: UTC}, work: {program: [echo]}}\n")
                        .collect(Collectors.joining("", "jobs:\n", "")));
        assertThat(brume("check", "many.yaml").out().lines())
                .hasSize(5)
                .contains("many.yaml:4: 3 more warnings of this kind; --all prints them")
                .last()
                .isEqualTo("many.yaml: 6 jobs, 0 calendars, 6 warnings");
        assertThat(brume("check", "many.yaml", "--all").out().lines()).hasSize(7);
        Files.writeString(
                folder.resolve("many.yaml"),
                IntStream.range(0, 25)
                        .mapToObj(i ->
                                "  wrong-" + i + ": {when: {every: " + i + "x, zone: UTC}, work: {program: [echo]}}\n")
                        .collect(Collectors.joining("", "jobs:\n", "")));
        assertThat(brume("check", "many.yaml").err().lines())
                .hasSize(22)
                .contains("many.yaml: 5 more of this kind; mend these, and the rest shows")
                .last()
                .isEqualTo("25 problems; nothing was changed");
    }

    @Test
    void mistakesInCalendarsAndRulesAreSaidWithTheirPlace() throws Exception {
        Files.writeString(folder.resolve("wrong.yaml"), """
                calendars:
                  feasts: {file: no-such.ics}
                  office: {weekly: MONDAY-FRI}
                  dates: {dates: [2026-13-01], excpet: []}
                jobs:
                  a:
                    when: {cron: "0 9 * * *", zone: UTC, ifDayOff: next}
                    work: {program: [echo]}
                  b:
                    when: {every: 90m, zone: UTC, notOn: feasts, ifDayOff: next}
                    work: {program: [echo]}
                  c:
                    when: {rule: "DTSTART:20270105T090000\\nRRULE:FREQ=DAILY;BYDAYS=MO", zone: UTC}
                    work: {program: [echo]}
                  d:
                    when: {cron: "0 * * * *", zone: UTC}
                    spread: 1h
                    work: {program: [echo]}
                  e:
                    when: {cron: "0 * * * *", zone: UTC, window: "8-10", atMost: 0}
                    work: {program: [echo]}
                """);
        Result result = brume("check", "wrong.yaml");

        assertThat(result.exitCode()).isEqualTo(2);
        assertThat(result.err())
                .containsPattern("wrong.yaml:2:\\d+: calendars/feasts/file: there is no file '.*no-such.ics'")
                .containsPattern("wrong.yaml:3:\\d+: .*'MONDAY' is not a value.*did you mean MON")
                .containsPattern("wrong.yaml:4:\\d+: .*'2026-13-01' is not a date")
                .containsPattern("wrong.yaml:4:\\d+: .*unknown key 'excpet'.*did you mean except")
                .containsPattern("wrong.yaml:7:\\d+: a/when/ifDayOff: 'next' needs notOn or onlyOn")
                .containsPattern("wrong.yaml:10:\\d+: b/when/ifDayOff: .*moves a time of day")
                .containsPattern("wrong.yaml:13:\\d+: c/when/rule: .*did you mean BYDAY")
                .containsPattern("wrong.yaml:17:\\d+: d/spread: 1h is not below the shortest interval, 1h")
                .containsPattern("wrong.yaml:20:\\d+: e/when/window: '8-10' is not a daily window")
                .doesNotContain("Exception");
    }

    @Test
    void theCommandLineSaysWhatGoesTogether() throws Exception {
        assertThat(brume("preview").err()).contains("expected either an EXPRESSION, or --file FILE, or --job JOB");
        assertThat(brume("preview", "-f", "harbour.yaml", "--job", "nobody").err())
                .contains("there is no job 'nobody'");
        assertThat(brume("preview", "-f", "harbour.yaml", "--zone", "UTC").err())
                .contains("belong to an EXPRESSION");
        assertThat(brume("preview", "every 90m", "--gap", "skip").err())
                .contains("belong to a cron expression or a rule");
        assertThat(brume("preview", "every 90m", "--zone", "UTC", "--count", "2")
                        .out())
                .contains("Every 1 hour and 30 minutes");
    }
}
