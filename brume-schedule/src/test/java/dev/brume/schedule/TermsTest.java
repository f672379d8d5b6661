package dev.brume.schedule;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.util.EnumSet;
import java.util.List;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class TermsTest {
    private static final ZoneId AZORES = ZoneId.of("Atlantic/Azores");
    private static final ZoneId LISBON = ZoneId.of("Europe/Lisbon");
    private static final DayCalendar OFFICE =
            DayCalendar.of("office-days", EnumSet.range(DayOfWeek.MONDAY, DayOfWeek.FRIDAY), List.of(), List.of());
    private static final DayCalendar FEASTS =
            DayCalendar.ofDates("feasts", List.of(LocalDate.parse("2026-12-24"), LocalDate.parse("2026-12-25")));

    private static Schedule cron(String text, ZoneId zone, Terms terms) {
        return CronSchedule.parse(text, zone).with(terms);
    }

    private static List<String> days(Timeline schedule, String from, String until) {
        return schedule.between(Instant.parse(from + "T00:00:00Z"), Instant.parse(until + "T00:00:00Z"))
                .map(occurrence -> occurrence.local() + (occurrence.notes().isEmpty() ? "" : " " + occurrence.notes()))
                .toList();
    }

    // Calendars.

    @Test
    void excludedDaysAreLeftOutAndRequiredOnesAreTheOnlyOnes() {
        Terms terms = Terms.NONE.onlyOn(OFFICE).notOn(FEASTS);

        assertThat(days(cron("0 9 * * *", AZORES, terms), "2026-12-22", "2026-12-30"))
                .containsExactly("2026-12-22T09:00", "2026-12-23T09:00", "2026-12-28T09:00", "2026-12-29T09:00");
    }

    @Test
    void whatIsMovedKeepsItsTimeOfDayAndMeetsWhatIsThereAlready() {
        Terms next = Terms.NONE.onlyOn(OFFICE).notOn(FEASTS).ifDayOff(IfDayOff.NEXT);
        Terms previous = next.ifDayOff(IfDayOff.PREVIOUS);

        assertThat(days(cron("0 9 25 * *", AZORES, next), "2026-12-01", "2027-01-01"))
                .containsExactly("2026-12-28T09:00 [MOVED]");
        assertThat(days(cron("0 9 25 * *", AZORES, previous), "2026-12-01", "2027-01-01"))
                .containsExactly("2026-12-23T09:00 [MOVED]");
        assertThat(days(cron("0 9 25,28 * *", AZORES, next), "2026-12-01", "2027-01-01"))
                .containsExactly("2026-12-28T09:00 [MERGED]");
        assertThat(days(cron("0 9,18 26,28 * *", AZORES, next), "2026-12-01", "2027-01-01"))
                .containsExactly("2026-12-28T09:00 [MERGED]", "2026-12-28T18:00 [MERGED]");
    }

    @Test
    void theNominalTimeOfWhatIsMovedIsTheDayTheRuleNamed() {
        Terms terms = Terms.NONE.notOn(FEASTS).ifDayOff(IfDayOff.NEXT);
        Occurrence moved = cron("30 1 25 * *", AZORES, terms)
                .next(Instant.parse("2026-12-24T00:00:00Z"))
                .orElseThrow();

        assertThat(moved.nominal()).hasToString("2026-12-25T01:30");
        assertThat(moved.local()).hasToString("2026-12-26T01:30");
        assertThat(moved.notes()).containsExactly(Note.MOVED);
    }

    @Test
    void aMovedTimeMeetsTheGapOfTheDayItIsMovedTo() {
        DayCalendar saturday = DayCalendar.ofDates("day", List.of(LocalDate.parse("2026-03-28")));
        Terms terms = Terms.NONE.notOn(saturday).ifDayOff(IfDayOff.NEXT);

        assertThat(days(cron("30 1 28 3 *", LISBON, terms), "2026-03-27", "2026-03-31"))
                .containsExactly("2026-03-29T02:00 [MOVED, AFTER_GAP]");
    }

    @Test
    void nothingIsMovedFartherThanAYear() {
        DayCalendar never = DayCalendar.of("never", EnumSet.noneOf(DayOfWeek.class), List.of(), List.of());
        Terms terms = Terms.NONE.onlyOn(never).ifDayOff(IfDayOff.NEXT);

        assertThat(cron("0 9 * * *", AZORES, terms).next(Instant.EPOCH)).isEmpty();
        assertThat(cron("0 9 * * *", AZORES, terms).previous(Instant.EPOCH)).isEmpty();
    }

    @Test
    void aMissingCalendarChangesNothing() {
        Terms terms = Terms.NONE.onlyOn(DayCalendar.missing("office-days")).notOn(DayCalendar.missing("feasts"));

        assertThat(days(cron("0 9 * * *", AZORES, terms), "2026-12-24", "2026-12-26"))
                .containsExactly("2026-12-24T09:00", "2026-12-25T09:00");
    }

    @Test
    void onceIsMovedToo() {
        Terms terms = Terms.NONE.notOn(FEASTS).ifDayOff(IfDayOff.PREVIOUS);
        Schedule once = OnceSchedule.parse("2026-12-25T10:00", AZORES).with(terms);

        assertThat(days(once, "2026-12-01", "2027-01-01")).containsExactly("2026-12-23T10:00 [MOVED]");
        assertThat(days(once.with(terms.ifDayOff(IfDayOff.SKIP)), "2026-12-01", "2027-01-01"))
                .isEmpty();
    }

    @Test
    void everyIsOwedOnItsGridOnTheDaysThatAreLeft() {
        EverySchedule every = EverySchedule.of(Duration.ofHours(12)).withZone(AZORES);

        assertThat(days(every.with(Terms.NONE.notOn(FEASTS)), "2026-12-23", "2026-12-27"))
                .containsExactly("2026-12-22T23:00", "2026-12-23T11:00", "2026-12-23T23:00", "2026-12-26T11:00");
        assertThatThrownBy(() -> every.with(Terms.NONE.notOn(FEASTS).ifDayOff(IfDayOff.NEXT)))
                .hasMessageContaining("moves a time of day");
    }

    // Windows.

    @ParameterizedTest
    @CsvSource({
        "08:00-10:00, 2026-11-24T08:00 2026-11-24T09:00",
        "22:00-01:00, 2026-11-24T00:00 2026-11-24T22:00 2026-11-24T23:00",
        "21:30-24:00, 2026-11-24T22:00 2026-11-24T23:00",
    })
    void aWindowIsHalfOpenAndMayCrossMidnight(String window, String expected) {
        Terms terms = Terms.NONE.within(DailyWindow.parse(window));

        assertThat(days(cron("0 * * * *", ZoneId.of("UTC"), terms), "2026-11-24", "2026-11-25"))
                .containsExactly(expected.split(" "));
    }

    @Test
    void aWindowIsReadBackAsItIsWritten() {
        for (String text : List.of("08:00-18:00", "22:30-06:15", "00:00-24:00", "18:00-24:00")) {
            assertThat(DailyWindow.parse(text)).hasToString(text);
        }
    }

    @Test
    void aWindowGoesByTheWallClockSoAFoldIsInItTwice() {
        Terms terms = Terms.NONE.within(DailyWindow.parse("01:00-01:30"));
        Schedule often =
                EverySchedule.of(Duration.ofMinutes(15)).withZone(LISBON).with(terms);
        Instant from = Instant.parse("2026-10-24T12:00:00Z");

        assertThat(often.between(from, from.plus(Duration.ofDays(1))).map(Occurrence::instant))
                .extracting(Instant::toString)
                .containsExactly(
                        "2026-10-25T00:00:00Z", "2026-10-25T00:15:00Z", "2026-10-25T01:00:00Z", "2026-10-25T01:15:00Z");
    }

    @ParameterizedTest
    @ValueSource(strings = {"", "8-10", "08:00", "08:00-08:00", "25:00-26:00", "08:00-10:00-12:00", "x"})
    void aWindowThatIsNoneIsRefused(String text) {
        assertThatThrownBy(() -> DailyWindow.parse(text)).isInstanceOf(ScheduleSyntaxException.class);
    }

    // Beginning, end, limit.

    @Test
    void itIsOwedFromItsBeginningInclusiveToItsEndExclusive() {
        Terms terms = Terms.NONE
                .from(Moment.parse("2026-11-24T09:00", AZORES))
                .until(Moment.parse("2026-11-26T09:00", AZORES));

        assertThat(days(cron("0 9 * * *", AZORES, terms), "2026-11-01", "2026-12-31"))
                .containsExactly("2026-11-24T09:00", "2026-11-25T09:00");
        assertThatThrownBy(() -> terms.until(Moment.parse("2026-11-24T09:00", AZORES)))
                .hasMessageContaining("is not after from");
    }

    @Test
    void aLimitCountsWhatIsOwedFromTheBeginningOrTheDefinition() {
        Instant defined = Instant.parse("2026-11-24T12:00:00Z");
        Schedule three = cron("0 9 * * *", AZORES, Terms.NONE.notOn(FEASTS).atMost(3));

        assertThat(days(three.countedFrom(Counting.from(defined)), "2026-11-01", "2027-02-01"))
                .containsExactly("2026-11-25T09:00", "2026-11-26T09:00", "2026-11-27T09:00");
        assertThat(days(three.countedFrom(new Counting(defined, defined, 2)), "2026-11-01", "2027-02-01"))
                .containsExactly("2026-11-25T09:00");
        assertThat(days(three.countedFrom(new Counting(defined, defined, 7)), "2026-11-01", "2027-02-01"))
                .isEmpty();
        Schedule fromMonday = cron("0 9 * * *", AZORES, Terms.NONE.atMost(2).from(Moment.parse("2026-11-30", AZORES)));
        assertThat(days(fromMonday, "2026-11-01", "2027-02-01"))
                .containsExactly("2026-11-30T09:00", "2026-12-01T09:00");
    }

    @Test
    void whatWasOwedOnAnotherDayAlreadyIsSteppedOver() {
        TermedSchedule daily = (TermedSchedule) cron("0 9 * * *", AZORES, Terms.NONE.notOn(FEASTS));

        assertThat(days(daily.without(Set.of(LocalDateTime.parse("2026-12-23T09:00"))), "2026-12-22", "2026-12-27"))
                .containsExactly("2026-12-22T09:00", "2026-12-26T09:00");
    }

    // Relative and after finish.

    @Test
    void aDelayRunsFromTheFirstDefinition() {
        OnceSchedule soon = OnceSchedule.parse("in 10m", AZORES);

        assertThat(soon.next(Instant.EPOCH)).isEmpty();
        assertThat(soon.countedFrom(Counting.from(Instant.parse("2026-11-24T12:00:00Z")))
                        .next(Instant.EPOCH))
                .hasValueSatisfying(next -> assertThat(next.instant()).isEqualTo("2026-11-24T12:10:00Z"));
        assertThat(soon.words()).isEqualTo("Once, 10 minutes after it is first defined");
    }

    @Test
    void afterFinishWaitsForItsWindowAndItsDays() {
        Schedule sweep = AfterEndSchedule.of(Duration.ofMinutes(10), AZORES)
                .with(Terms.NONE.onlyOn(OFFICE).within(DailyWindow.parse("08:00-18:00")));

        assertThat(due(sweep, "2026-11-24T10:00:00Z")).isEqualTo("2026-11-24T10:10:00Z");
        assertThat(due(sweep, "2026-11-24T18:55:00Z")).isEqualTo("2026-11-25T09:00:00Z");
        assertThat(due(sweep, "2026-11-27T19:55:00Z")).isEqualTo("2026-11-30T09:00:00Z");
        assertThat(sweep.firstByEnds(Instant.parse("2026-11-28T10:00:00Z"))
                        .orElseThrow()
                        .notes())
                .containsExactly(Note.ESTIMATED);
        assertThat(sweep.next(Instant.EPOCH)).isEmpty();
    }

    private static Instant due(Schedule schedule, String end) {
        return schedule.afterEnd(Instant.parse(end)).orElseThrow().instant();
    }

    // Words.

    @Test
    void wordsSayTheTerms() {
        Terms terms = Terms.NONE
                .onlyOn(OFFICE)
                .notOn(FEASTS)
                .ifDayOff(IfDayOff.PREVIOUS)
                .within(DailyWindow.parse("08:00-24:00"))
                .until(Moment.parse("2027-05-14T06:00", AZORES))
                .atMost(12);

        assertThat(cron("0 9 L * *", AZORES, terms).words())
                .isEqualTo("At 09:00 on the last day of the month, Azores time, only on the days of office-days, not on"
                        + " the days of feasts (moved to the working day before instead), only between 08:00 and 24:00,"
                        + " until Friday 14 May 2027 at 06:00, at most 12 times in all");
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            30 1 * * *   | Europe/Lisbon | At 01:30 every day, Lisbon time; a time that clocks skip is made up right after, and one that comes twice counts the first time
            30 2 * * *   | Europe/Lisbon | At 02:30 every day, Lisbon time
            30 1 1 1 *   | Europe/Lisbon | At 01:30 on the 1st in January, Lisbon time
            30 1 * * *   | Asia/Tokyo    | At 01:30 every day, Tokyo time
            */10 * * * * | Europe/Lisbon | Every 10 minutes, Lisbon time
            """)
    void thePoliciesAreSaidWhereTheyMatter(String text, String zone, String expected) {
        assertThat(CronSchedule.parse(text, ZoneId.of(zone)).words()).isEqualTo(expected);
    }
}
