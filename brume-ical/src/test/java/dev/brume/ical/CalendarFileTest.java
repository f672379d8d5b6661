package dev.brume.ical;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.schedule.ScheduleSyntaxException;
import java.io.IOException;
import java.io.StringReader;
import java.io.StringWriter;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.List;
import java.util.SortedSet;
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

    private static SortedSet<LocalDate> days(String text) throws IOException {
        return CalendarFile.days(new StringReader(text), AZORES);
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
    void anEventCoversTheDaysItTouches(String lines, String expected) throws IOException {
        SortedSet<LocalDate> days = days(file(lines.split("!")));

        assertThat(days)
                .extracting(LocalDate::toString)
                .containsExactlyElementsOf(expected == null ? List.of() : List.of(expected.split(" ")));
    }

    @Test
    void whatRecursForEverIsFollowedToTheEndOfTheCentury() throws IOException {
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
    void anEventOfEverySecondCostsNoMoreThanItsDays() throws IOException {
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
    void aThousandYearlyEventsAreRead() throws IOException {
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
        assertThatThrownBy(() -> days("hello\r\n")).hasMessageContaining("line 1 is not iCalendar");
        assertThatThrownBy(() -> days(file("DTSTART:20261225").replace("END:VEVENT\r\n", "")))
                .hasMessageContaining("is not iCalendar: Expected [VEVENT]");
    }

    @Test
    void whatIsWrittenIsReadBack(@TempDir Path folder) throws IOException {
        StringWriter out = new StringWriter();
        Instant at = Instant.parse("2027-05-14T09:00:00Z");
        CalendarWriter.write(out, List.of(new CalendarWriter.Entry("1@merrow", at, "bridge-closure", "Once, ü")), at);
        Path file = Files.writeString(folder.resolve("out.ics"), out.toString());

        assertThat(out.toString())
                .contains("BEGIN:VCALENDAR\r\n", "VERSION:2.0", "UID:1@merrow", "DTSTART:20270514T090000Z")
                .contains("SUMMARY:bridge-closure", "DESCRIPTION:Once\\, ü");
        assertThat(CalendarFile.days(file, AZORES)).containsExactly(LocalDate.parse("2027-05-14"));
    }
}
