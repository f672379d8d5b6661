package dev.brume.internal.document;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.schedule.DayCalendar;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.SplittableRandom;
import java.util.TreeSet;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

class CalendarDocumentTest {
    private static final LocalDate EVE = LocalDate.parse("2026-12-24");

    private final List<DocumentProblem> problems = new ArrayList<>();

    private Optional<DayCalendar> read(Map<String, ?> document) {
        problems.clear();
        return CalendarDocument.read(
                "feasts",
                "calendars/feasts",
                document,
                file -> {
                    if (file.equals("feasts.ics")) {
                        return new TreeSet<>(List.of(EVE));
                    }
                    throw new IllegalArgumentException("there is no file '" + file + "'");
                },
                problems);
    }

    @Test
    void whatIsWrittenIsReadBackTheSame() {
        SplittableRandom random = new SplittableRandom(20261127);
        for (int i = 0; i < 300; i++) {
            EnumSet<DayOfWeek> weekly = EnumSet.noneOf(DayOfWeek.class);
            for (DayOfWeek day : DayOfWeek.values()) {
                if (random.nextInt(3) == 0) {
                    weekly.add(day);
                }
            }
            DayCalendar calendar = DayCalendar.of(
                    "feasts", weekly, dates(random, random.nextInt(9)), dates(random, random.nextInt(4)));

            assertThat(read(CalendarDocument.write(calendar))).as("case " + i).contains(calendar);
            assertThat(problems).isEmpty();
        }
    }

    private static List<LocalDate> dates(SplittableRandom random, int count) {
        return Stream.generate(() -> EVE.plusDays(random.nextInt(900)))
                .limit(count)
                .toList();
    }

    @Test
    void daysOfTheWeekDatesAndAFileComeTogether() {
        DayCalendar calendar = read(Map.of(
                        "weekly",
                        "SUN",
                        "dates",
                        List.of("2027-01-01"),
                        "file",
                        "feasts.ics",
                        "except",
                        List.of("2026-12-27")))
                .orElseThrow();

        assertThat(calendar.dates()).containsExactly(EVE, LocalDate.parse("2027-01-01"));
        assertThat(calendar.contains(LocalDate.parse("2026-12-27"))).isFalse();
        assertThat(calendar.contains(LocalDate.parse("2027-01-03"))).isTrue();
    }

    @Test
    void allThatIsWrongIsNotedAtItsPlace() {
        assertThat(read(Map.of(
                        "weekly", "MONDAY",
                        "dates", List.of("2026-12-24", "24.12.2026"),
                        "file", "no-such.ics",
                        "except", "2026-12-24")))
                .isEmpty();
        assertThat(problems)
                .extracting(DocumentProblem::path)
                .containsExactlyInAnyOrder(
                        "calendars/feasts/weekly",
                        "calendars/feasts/dates/1",
                        "calendars/feasts/file",
                        "calendars/feasts/except");
        assertThat(read(Map.of("except", List.of()))).isEmpty();
        assertThat(problems)
                .singleElement()
                .extracting(DocumentProblem::message)
                .asString()
                .contains("has no days");
        assertThat(read(Map.of("dates", List.of(), "weekdays", "MON"))).isEmpty();
        assertThat(problems)
                .singleElement()
                .extracting(DocumentProblem::message)
                .asString()
                .contains("unknown key");
    }
}
