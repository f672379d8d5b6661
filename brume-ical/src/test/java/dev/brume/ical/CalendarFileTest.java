package dev.brume.ical;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.ScheduleSyntaxException;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.StringWriter;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import java.util.SortedSet;
import net.fortuna.ical4j.model.Property;
import net.fortuna.ical4j.model.component.Observance;
import net.fortuna.ical4j.model.component.VTimeZone;
import net.fortuna.ical4j.model.property.TzOffsetTo;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class CalendarFileTest {
    private static final ZoneId AZORES = ZoneId.of("Atlantic/Azores");

    private static String file(String... lines) {
        return "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Merrow//EN\r\nBEGIN:VEVENT\r\nUID:1\r\n"
                + String.join("\r\n", lines) + "\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n";
    }

    private static CalendarDays read(String text) {
        return CalendarFile.read(text.getBytes(StandardCharsets.UTF_8), AZORES);
    }

    private static SortedSet<LocalDate> days(String text) {
        return read(text).days();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            DTSTART;VALUE=DATE:20261225 | 2026-12-25
            DTSTART;VALUE=DATE:20261224!DTEND;VALUE=DATE:20261227 | 2026-12-24 2026-12-25 2026-12-26
            DTSTART;VALUE=DATE:20261224!DURATION:P2D | 2026-12-24 2026-12-25
            DTSTART:20261224T100000!DTEND:20261224T120000 | 2026-12-24
            DTSTART;TZID=Europe/Lisbon:20261224T220000!DTEND;TZID=Europe/Lisbon:20261225T020000 | 2026-12-24 2026-12-25
            DTSTART:20261224T220000!DURATION:PT2H | 2026-12-24
            DTSTART:20261225T003000Z | 2026-12-24
            DTSTART;VALUE=DATE:20261225!STATUS:CANCELLED |
            DTSTART;VALUE=DATE:20261225!RRULE:FREQ=YEARLY;COUNT=3 | 2026-12-25 2027-12-25 2028-12-25
            DTSTART;VALUE=DATE:20270612!RRULE:FREQ=YEARLY;BYMONTH=6;BYDAY=2SA;UNTIL=20290101 | 2027-06-12 2028-06-10
            DTSTART;VALUE=DATE:20261225!RDATE;VALUE=DATE:20270102,20270103!EXDATE;VALUE=DATE:20261225 | 2027-01-02 2027-01-03
            """)
    void anEventCoversTheDaysItTouches(String lines, String expected) {
        SortedSet<LocalDate> days = days(file(lines.split("!")));

        assertThat(days)
                .extracting(LocalDate::toString)
                .containsExactlyElementsOf(expected == null ? List.of() : List.of(expected.split(" ")));
    }

    @Test
    void foldedLinesAreOneLineWhereverTheyAreFolded() throws IOException {
        String closed = file(
                "SUMMARY:Harbour closed, as every year, between the first and the f",
                " ifth of January, for the \u00fc",
                " bersee",
                "\t fleet",
                "DTSTART;VALUE=DATE:2027",
                " 0101",
                "DTEND;VALUE=DATE:20270106",
                "RRULE:FREQ=YEARLY;",
                "  COUNT=2");
        byte[] bytes = closed.getBytes(StandardCharsets.UTF_8);
        ByteArrayOutputStream inside = new ByteArrayOutputStream();
        for (byte each : bytes) {
            inside.write(each);
            if (each == (byte) 0xC3) {
                inside.write("\r\n ".getBytes(StandardCharsets.UTF_8));
            }
        }

        assertThat(days(closed)).hasSize(10).contains(LocalDate.parse("2027-01-02"), LocalDate.parse("2028-01-05"));
        assertThat(CalendarFile.read(inside.toByteArray(), AZORES)).isEqualTo(read(closed));
        byte[] utf16 = closed.getBytes(StandardCharsets.UTF_16);
        assertThat(CalendarFile.read(utf16, AZORES).days()).isEqualTo(days(closed));
        assertThat(days("\uFEFF" + closed.replace("\r\n", "\n"))).isEqualTo(days(closed));
    }

    @Test
    void singleTimesOfASeriesAreMovedAndCancelled() {
        String series = file("DTSTART;VALUE=DATE:20270104", "RRULE:FREQ=WEEKLY;COUNT=6");
        String moved =
                "BEGIN:VEVENT\nUID:1\nRECURRENCE-ID;VALUE=DATE:20270111\nDTSTART;VALUE=DATE:20270113\nEND:VEVENT\n";
        String older = "BEGIN:VEVENT\nUID:1\nSEQUENCE:0\nRECURRENCE-ID;VALUE=DATE:20270118\n"
                + "DTSTART;VALUE=DATE:20270119\nEND:VEVENT\n";
        String cancelled = "BEGIN:VEVENT\nUID:1\nSEQUENCE:2\nRECURRENCE-ID;VALUE=DATE:20270118\n"
                + "DTSTART;VALUE=DATE:20270118\nSTATUS:cancelled\nEND:VEVENT\n";
        String later = "BEGIN:VEVENT\nUID:1\nRECURRENCE-ID;RANGE=THISANDFUTURE;VALUE=DATE:20270201\n"
                + "DTSTART;VALUE=DATE:20270202\nDTEND;VALUE=DATE:20270204\nEND:VEVENT\n";

        assertThat(days(series.replace("END:VCALENDAR", cancelled + moved + older + later + "END:VCALENDAR")))
                .extracting(LocalDate::toString)
                .containsExactly(
                        "2027-01-04",
                        "2027-01-13",
                        "2027-01-25",
                        "2027-02-02",
                        "2027-02-03",
                        "2027-02-09",
                        "2027-02-10");
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            dtstart;value=date:20261225!rrule:freq=yearly;count=2; | 2026-12-25 2027-12-25
            DTSTART:20261224t220000z!duration:pt1h | 2026-12-24
            DTSTART:20261224T080000Z!DURATION:PT1H!RDATE;VALUE=PERIOD:20261226T080000Z/PT40H,20261230T080000Z/20261230T090000Z | 2026-12-24 2026-12-26 2026-12-27 2026-12-30
            DTSTART;VALUE=DATE:20261221!RRULE:FREQ=DAILY;COUNT=7!EXRULE:FREQ=WEEKLY;BYDAY=WE,FR,SA,SU | 2026-12-21 2026-12-22 2026-12-24
            DTSTART;TZID=Azores Standard Time:20261224T233000!DTEND:20261225T010000Z | 2026-12-24
            DTSTART;TZID=/example.org/2027_1/Europe/Lisbon:20261224T233000!DTEND:20261225T010000Z | 2026-12-24 2026-12-25
            """)
    void calendarsAsProgramsWriteThemAreRead(String lines, String expected) {
        assertThat(days(file(lines.split("!"))))
                .extracting(LocalDate::toString)
                .containsExactlyElementsOf(List.of(expected.split(" ")));
    }

    @Test
    void aZoneOfItsOwnIsKnownByWhatItsDefinitionSays() {
        String definition = "BEGIN:VTIMEZONE\nTZID:Harbour time\n%sBEGIN:STANDARD\nDTSTART:19701025T040000\n"
                + "RRULE:FREQ=YEARLY;BYMONTH=10;BYDAY=-1SU\nTZOFFSETFROM:+0100\nTZOFFSETTO:+0000\nEND:STANDARD\n"
                + "BEGIN:DAYLIGHT\nDTSTART:19700329T030000\nRRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=-1SU\n"
                + "TZOFFSETFROM:+0000\nTZOFFSETTO:+0100\nEND:DAYLIGHT\nEND:VTIMEZONE\nBEGIN:VEVENT";
        String event = file("DTSTART;TZID=Harbour time:20270624T233000", "DTEND:20270624T233000Z");
        String stated = event.replaceFirst("BEGIN:VEVENT", definition.formatted("X-LIC-LOCATION:Europe/Lisbon\n"));
        String bare = event.replaceFirst("BEGIN:VEVENT", definition.formatted(""));

        assertThat(days(stated)).hasSize(2);
        assertThat(read(stated).warnings()).isEmpty();
        assertThat(days(bare)).hasSize(2);
        assertThat(read(bare).warnings())
                .extracting(Warning::toString)
                .containsExactly(
                        "line 21 names the zone 'Harbour time', which is taken for Europe/London by the offsets of"
                                + " its VTIMEZONE");
        assertThatThrownBy(() -> days(event)).hasMessageContaining("Harbour time");
    }

    @Test
    void whatIsNotUnderstoodIsAWarningWithItsLine() {
        String text = file("DTSTART;VALUE=DATE:20261225", "", "this line was never one", "RULE:FREQ=DAILY", "X-A:b")
                .replace(
                        "END:VCALENDAR",
                        "BEGIN:VTODO\nDUE:20270101\nEND:VTODO\nBEGIN:VEVENT\nUID:1\nRECURRENCE-ID;VALUE=DATE:20270101\n"
                                + "STATUS:CANCELLED\nEND:VEVENT\nEND:VCALENDAR");

        assertThat(days(text)).hasSize(1);
        assertThat(read(text).warnings())
                .extracting(Warning::toString)
                .containsExactly(
                        "line 8 is no line of iCalendar and was left out: 'this line was never one'",
                        "line 9 names RULE, which no event has, and was left out",
                        "line 12 holds a VTODO, which covers no days: only events are looked at",
                        "line 15 begins an event that stands for a time that '1' does not have, by its RECURRENCE-ID");
    }

    @Test
    void whatRecursForEverIsFollowedToTheEndOfTheCentury() {
        SortedSet<LocalDate> days = days(file("DTSTART;VALUE=DATE:20261225", "RRULE:FREQ=YEARLY"));

        assertThat(days).hasSize(75);
        assertThat(days.last()).isEqualTo("2100-12-25");
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            SUMMARY:Lantern days | 'Lantern days' has no DTSTART
            DTSTART:2026122 | '2026122' is not a date or time
            DTSTART;TZID=Europe/Lisbun:20261224T220000 | did you mean Europe/Lisbon?
            DTSTART;VALUE=DATE:20261225!RRULE:FREQ=SOMETIMES | Invalid value SOMETIMES
            DTSTART;VALUE=DATE:20261225!DTEND;VALUE=DATE:20261224 | ends before it begins
            DTSTART;VALUE=DATE:20261225!DURATION:long | DURATION
            DTSTART;VALUE=DATE:20261225!DURATION:P9999999D | lasts longer
            """)
    void whatIsWrongIsSaid(String lines, String expected) {
        String text = file(lines.split("!"));

        assertThatThrownBy(() -> days(text))
                .isInstanceOf(ScheduleSyntaxException.class)
                .hasMessageContaining(expected);
    }

    @Test
    void anEventOfEverySecondCostsNoMoreThanItsDays() {
        SortedSet<LocalDate> days = days(file("DTSTART:20261225T220000", "DURATION:PT3H", "RRULE:FREQ=SECONDLY"));

        assertThat(days.first()).isEqualTo("2026-12-25");
        assertThat(days).hasSize(27_036);
        assertThat(days.last()).isEqualTo("2101-01-01");
    }

    private static String thousand(String rule) {
        StringBuilder text = new StringBuilder("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Merrow//EN\r\n");
        for (int i = 0; i < 1000; i++) {
            text.append("BEGIN:VEVENT\r\nUID:" + i
                            + "@merrow.example\r\nDTSTAMP:20260101T000000Z\r\nDTSTART;VALUE=DATE:2026")
                    .append(String.format("%02d%02d", 1 + i % 12, 1 + i % 28))
                    .append("\r\nRRULE:" + rule + "\r\nSUMMARY:e" + i + "\r\nEND:VEVENT\r\n");
        }
        return text + "END:VCALENDAR\r\n";
    }

    @Test
    void aThousandYearlyEventsAreRead() {
        assertThat(days(thousand("FREQ=YEARLY"))).hasSize(84 * 75);
    }

    @ParameterizedTest
    @ValueSource(strings = {"FREQ=DAILY", "FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30"})
    void aThousandThatWouldTakeMinutesAreRefused(String rule) {
        String text = thousand(rule);

        assertThatThrownBy(() -> days(text))
                .isInstanceOf(ScheduleSyntaxException.class)
                .hasMessageContaining("brings the file above 10000000 days to look at until 2100");
    }

    @Test
    void whatIsNoCalendarIsRefusedWithItsLine() {
        assertThatThrownBy(() -> days("hello\r\n"))
                .hasMessageContaining("line 1 is outside any calendar (expected BEGIN:VCALENDAR): 'hello'");
        assertThatThrownBy(() -> days(file("DTSTART:20261225").replace("END:VEVENT\r\n", "")))
                .hasMessageContaining("line 7 ends a VCALENDAR, and the VEVENT that began in line 4 is still open");
        assertThatThrownBy(() -> days(file("DTSTART:20261225").replace("END:VCALENDAR\r\n", "")))
                .hasMessageContaining("line 1 begins a VCALENDAR that has no END");
        assertThatThrownBy(() -> days("")).hasMessageContaining("holds no calendar");
        byte[] latin = file("DTSTART:20261225", "SUMMARY:F\u00eate").getBytes(StandardCharsets.ISO_8859_1);
        assertThatThrownBy(() -> CalendarFile.read(latin, AZORES)).hasMessageContaining("line 7 is not in UTF-8");
    }

    @Test
    void aRegionWithSomethingBeforeItsNameIsThatRegion() throws IOException {
        String file = file("DTSTART;TZID=custom_America/New_York:20270312T220000", "DTEND:20270313T040000Z");

        assertThat(days(file)).containsExactly(LocalDate.parse("2027-03-12"));
    }

    @Test
    void severalRulesOfOneEventNameWhatAnyOfThemDoes() throws IOException {
        assertThat(days(file(
                        "DTSTART:20270104",
                        "RRULE:FREQ=WEEKLY;COUNT=3",
                        "RRULE:FREQ=MONTHLY;BYMONTHDAY=4,5;COUNT=4",
                        "EXDATE:20270111")))
                .containsExactly(
                        LocalDate.parse("2027-01-04"),
                        LocalDate.parse("2027-01-05"),
                        LocalDate.parse("2027-01-18"),
                        LocalDate.parse("2027-02-04"),
                        LocalDate.parse("2027-02-05"));
    }

    @Test
    void whatIsWrittenIsReadBack(@TempDir Path folder) throws IOException {
        StringWriter out = new StringWriter();
        Instant at = Instant.parse("2027-05-14T09:00:00Z");
        CalendarWriter.write(out, List.of(entry(at, Optional.empty(), Optional.of(Duration.ofMinutes(135)))), at);
        Path file = Files.writeString(folder.resolve("out.ics"), out.toString());

        assertThat(out.toString())
                .contains("BEGIN:VCALENDAR\r\n", "VERSION:2.0", "UID:1@merrow", "DTSTART:20270514T090000Z")
                .contains("SUMMARY:bridge-closure", "DESCRIPTION:Once\\, ü", "DURATION:PT2H15M");
        assertThat(CalendarFile.read(file, AZORES).days()).containsExactly(LocalDate.parse("2027-05-14"));
    }

    private static CalendarWriter.Entry entry(Instant at, Optional<CalendarRule> rule, Optional<Duration> lasts) {
        return new CalendarWriter.Entry("1@merrow", at, rule, lasts, "bridge-closure", "Once, ü");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "15 4 * * *       | FREQ=DAILY;BYHOUR=4;BYMINUTE=15;BYSECOND=0",
                "0 9,17 * * MON   | FREQ=WEEKLY;BYDAY=MO;BYHOUR=9,17;BYMINUTE=0;BYSECOND=0",
                "0 9 13 3 *       | FREQ=MONTHLY;BYMONTH=3;BYMONTHDAY=13;BYHOUR=9;BYMINUTE=0;BYSECOND=0",
                "0 9 13 * FRI     | ",
                "0 9 L * *        | ",
                "30 0 * * *       | ",
                "*/15 * * * *     | "
            })
    void aScheduleIsSaidAsARuleWhereThatMeansTheSame(String cron, String rule) throws IOException {
        CronSchedule schedule = CronSchedule.parse(cron.strip(), AZORES);
        Instant from = Instant.parse("2026-11-23T00:00:00Z");

        assertThat(CalendarRule.of(schedule, from).map(CalendarRule::text)).isEqualTo(Optional.ofNullable(rule));
    }

    @Test
    void aRuleStandsInItsZoneWithThatZonesRules() throws IOException {
        Instant from = Instant.parse("2026-11-23T00:00:00Z");
        CronSchedule schedule = CronSchedule.parse("15 4 * * MON", AZORES);
        CalendarRule rule = CalendarRule.of(schedule, from).orElseThrow();
        StringWriter out = new StringWriter();
        CalendarWriter.write(
                out, List.of(entry(rule.start().toInstant(), Optional.of(rule.count(5)), Optional.empty())), from);

        assertThat(out.toString())
                .contains("DTSTART;TZID=Atlantic/Azores:20261123T041500", "RRULE:FREQ=WEEKLY", "COUNT=5")
                .contains("BEGIN:VTIMEZONE\r\nTZID:Atlantic/Azores")
                .contains("TZOFFSETFROM:-0100\r\nTZOFFSETTO:+0000\r\nRRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=-1SU");
        assertThat(CalendarFile.read(out.toString().getBytes(StandardCharsets.UTF_8), AZORES)
                        .days())
                .hasSize(5)
                .startsWith(LocalDate.parse("2026-11-23"))
                .endsWith(LocalDate.parse("2026-12-21"));
    }

    /** What a program without a zone database makes of the rules that are written. */
    @ParameterizedTest
    @ValueSource(strings = {"Europe/Berlin", "Atlantic/Azores", "America/Halifax", "Australia/Lord_Howe", "Asia/Tokyo"})
    void theRulesOfAZoneAreThoseOfJava(String name) {
        ZoneId zone = ZoneId.of(name);
        Instant from = Instant.parse("2026-11-23T00:00:00Z");
        VTimeZone written = ZoneText.of(zone, from);

        for (int day = 0; day < 3000; day += 5) {
            LocalDateTime local =
                    LocalDateTime.ofInstant(from, zone).plusDays(day).withHour(12);
            if (!zone.getRules().getOffset(local).equals(zone.getRules().getOffset(local.minusDays(1)))) {
                continue; // The library that reads it back is not sure of the day of a change itself.
            }
            Observance applicable =
                    written.getApplicableObservance(local.atZone(zone).toOffsetDateTime());
            assertThat(applicable
                            .<TzOffsetTo>getProperty(Property.TZOFFSETTO)
                            .orElseThrow()
                            .getOffset())
                    .as("%s", local)
                    .isEqualTo(zone.getRules().getOffset(local));
        }
    }
}
