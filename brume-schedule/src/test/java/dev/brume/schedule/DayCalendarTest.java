package dev.brume.schedule;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.DayOfWeek;
import java.time.LocalDate;
import java.util.EnumSet;
import java.util.List;
import java.util.Set;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class DayCalendarTest {
    private static final LocalDate THURSDAY = LocalDate.parse("2026-12-24");
    private static final LocalDate SUNDAY = LocalDate.parse("2026-12-27");

    @Test
    void aDayBelongsByItsWeekdayOrItsDateUnlessItIsExcepted() {
        DayCalendar calendar = DayCalendar.of(
                "closed", Set.of(DayOfWeek.SUNDAY), List.of(THURSDAY, THURSDAY.plusDays(1)), List.of(SUNDAY));

        assertThat(calendar.contains(THURSDAY)).isTrue();
        assertThat(calendar.contains(THURSDAY.plusDays(2))).isFalse();
        assertThat(calendar.contains(SUNDAY)).isFalse();
        assertThat(calendar.contains(SUNDAY.plusDays(7))).isTrue();
        assertThat(calendar.contains(SUNDAY.minusYears(300).with(DayOfWeek.SUNDAY)))
                .isTrue();
    }

    @Test
    void whatItHoldsIsSortedAndWithoutRepeats() {
        DayCalendar calendar = DayCalendar.ofDates("feasts", List.of(SUNDAY, THURSDAY, SUNDAY));

        assertThat(calendar.dates()).containsExactly(THURSDAY, SUNDAY);
        assertThat(calendar.except()).isEmpty();
        assertThat(calendar.weekdays()).isEmpty();
        assertThat(calendar.lastDate()).contains(SUNDAY);
        assertThat(DayCalendar.of("weekend", EnumSet.of(DayOfWeek.SATURDAY), List.of(), List.of())
                        .lastDate())
                .isEmpty();
    }

    @Test
    void twoAreEqualIfTheirNamesAndAllTheirDaysAre() {
        DayCalendar one = DayCalendar.ofDates("feasts", List.of(THURSDAY, SUNDAY));

        assertThat(one)
                .isEqualTo(DayCalendar.ofDates("feasts", List.of(SUNDAY, THURSDAY)))
                .hasSameHashCodeAs(DayCalendar.ofDates("feasts", List.of(SUNDAY, THURSDAY)))
                .isNotEqualTo(DayCalendar.ofDates("others", List.of(THURSDAY, SUNDAY)))
                .isNotEqualTo(DayCalendar.ofDates("feasts", List.of(THURSDAY)))
                .isNotEqualTo(DayCalendar.of("feasts", Set.of(DayOfWeek.MONDAY), List.of(THURSDAY, SUNDAY), List.of()))
                .isNotEqualTo(DayCalendar.of("feasts", Set.of(), List.of(THURSDAY, SUNDAY), List.of(SUNDAY)));
        assertThat(DayCalendar.missing("feasts")).isNotEqualTo(DayCalendar.ofDates("feasts", List.of()));
        assertThat(DayCalendar.missing("feasts").isMissing()).isTrue();
    }

    @Test
    void tooManyDatesAreRefused() {
        List<LocalDate> dates = Stream.iterate(THURSDAY, day -> day.plusDays(1))
                .limit(DayCalendar.MOST_DATES + 1)
                .toList();

        assertThatThrownBy(() -> DayCalendar.ofDates("feasts", dates)).hasMessageContaining("at most 100000");
        assertThat(DayCalendar.ofDates("feasts", dates.subList(1, dates.size())).dates())
                .hasSize(DayCalendar.MOST_DATES);
    }

    @ParameterizedTest
    @CsvSource({"MON-FRI, 5", "'SAT, SUN', 2", "FRI-MON, 4", "mon, 1", "*, 7", "0, 1", "1-5/2, 3"})
    void weekdaysAreWrittenAsInACronField(String text, int days) {
        assertThat(DayCalendar.weekdays(text)).hasSize(days);
    }

    @ParameterizedTest
    @ValueSource(strings = {"", "MONDAY", "5L", "FRI#2", "8", "MON FRI"})
    void whatIsNoWeekdaysIsRefused(String text) {
        assertThatThrownBy(() -> DayCalendar.weekdays(text)).isInstanceOf(ScheduleSyntaxException.class);
    }
}
