package dev.brume.ical;

import dev.brume.ical.RuleParts.Day;
import dev.brume.ical.RuleParts.Unit;
import dev.brume.schedule.LocalTimes;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.YearMonth;
import java.util.List;
import java.util.stream.IntStream;
import java.util.stream.LongStream;
import org.jspecify.annotations.Nullable;

/** The days that a RRULE names: RFC 5545, section 3.3.10, the table of what BY parts do under each FREQ. */
final class RuleDays {
    private static final int FOUR_HUNDRED_YEARS = 146_097;

    private final RuleParts parts;
    private final LocalDate start;
    private final @Nullable Effort effort;

    /** @param effort how many days may be looked at; nothing for as many as it takes */
    RuleDays(RuleParts parts, LocalDate start, @Nullable Effort effort) {
        this.parts = parts;
        this.start = start;
        this.effort = effort;
    }

    /** Weeks are counted from the one that holds 1970-01-01. */
    long weekOf(long epochDay) {
        int shift = DayOfWeek.THURSDAY.getValue() - parts.weekStart().getValue();
        return Math.floorDiv(epochDay + Math.floorMod(shift, 7L), 7L);
    }

    long firstDayOfWeek(long week) {
        int shift = DayOfWeek.THURSDAY.getValue() - parts.weekStart().getValue();
        return week * 7 - Math.floorMod(shift, 7L);
    }

    /** The days of a period of a day or longer, in order. */
    long[] of(long period) {
        return switch (parts.unit()) {
            case WEEK -> filter(firstDayOfWeek(period), 7);
            case MONTH ->
                ofMonth(YearMonth.of((int) Math.floorDiv(period, 12L), (int) Math.floorMod(period, 12L) + 1))
                        .toArray();
            case YEAR -> ofYear((int) period);
            default -> filter(period, 1);
        };
    }

    /** Most rules by the year name a month or a day of it, if only that of DTSTART, so that few days need to be looked at. */
    private long[] ofYear(int year) {
        if (!parts.months().isEmpty() || isOwnDayOfMonth()) {
            return months().asLongStream()
                    .flatMap(month -> ofMonth(YearMonth.of(year, (int) month)))
                    .toArray();
        }
        LocalDate first = LocalDate.of(year, 1, 1);
        return filter(first.toEpochDay(), first.lengthOfYear());
    }

    private IntStream months() {
        return parts.months().isEmpty()
                ? IntStream.of(start.getMonthValue())
                : parts.months().stream().mapToInt(Integer::intValue).sorted().distinct();
    }

    private LongStream ofMonth(YearMonth month) {
        long first = month.atDay(1).toEpochDay();
        if (!isOwnDayOfMonth()) {
            return LongStream.of(filter(first, month.lengthOfMonth()));
        }
        return month.isValidDay(start.getDayOfMonth())
                ? LongStream.of(filter(first + start.getDayOfMonth() - 1, 1))
                : LongStream.empty();
    }

    /** Whether a rule by the year says nothing of days, so that DTSTART's own counts. */
    private boolean isOwnDayOfMonth() {
        return parts.unit() == Unit.YEAR
                && parts.yearDays().isEmpty()
                && parts.monthDays().isEmpty()
                && parts.days().isEmpty()
                && parts.weeks().isEmpty();
    }

    private long[] filter(long first, int length) {
        return LongStream.range(first, first + length).filter(this::matches).toArray();
    }

    /** {@return the nearest matching day beyond one, or {@link LocalTimes#NONE}} */
    long nearestMatching(long epochDay, boolean forwards) {
        long day = forwards ? epochDay + 1 : epochDay - 1;
        while (Math.abs(day - epochDay) <= FOUR_HUNDRED_YEARS) {
            LocalDate date = LocalDate.ofEpochDay(day);
            if (!monthMatches(date)) {
                LocalDate firstOfMonth = date.withDayOfMonth(1);
                look();
                day = forwards ? firstOfMonth.plusMonths(1).toEpochDay() : firstOfMonth.toEpochDay() - 1;
            } else if (matches(day)) {
                return day;
            } else {
                day = forwards ? day + 1 : day - 1;
            }
        }
        return LocalTimes.NONE;
    }

    private void look() {
        if (effort != null) {
            effort.spend();
        }
    }

    boolean matches(long epochDay) {
        look();
        LocalDate date = LocalDate.ofEpochDay(epochDay);
        return monthMatches(date)
                && weekMatches(date)
                && fromEitherEnd(parts.yearDays(), date.getDayOfYear(), date.lengthOfYear())
                && fromEitherEnd(parts.monthDays(), date.getDayOfMonth(), date.lengthOfMonth())
                && (parts.days().isEmpty() || parts.days().stream().anyMatch(day -> weekdayMatches(day, date)))
                && startsOwnDay(date);
    }

    private boolean monthMatches(LocalDate date) {
        return parts.months().isEmpty() || parts.months().contains(date.getMonthValue());
    }

    private static boolean fromEitherEnd(List<Integer> values, int number, int length) {
        return values.isEmpty() || values.contains(number) || values.contains(number - length - 1);
    }

    /** The week's number in its own year, which may be the one before or after; week 1 has four days or more. */
    private boolean weekMatches(LocalDate date) {
        if (parts.weeks().isEmpty()) {
            return true;
        }
        int year = date.getYear();
        long week = weekOf(date.toEpochDay());
        if (week >= firstWeek(year + 1)) {
            year++;
        } else if (week < firstWeek(year)) {
            year--;
        }
        int number = (int) (week - firstWeek(year)) + 1;
        int weeks = (int) (firstWeek(year + 1) - firstWeek(year));
        return fromEitherEnd(parts.weeks(), number, weeks);
    }

    private long firstWeek(int year) {
        return weekOf(LocalDate.of(year, 1, 4).toEpochDay());
    }

    private boolean weekdayMatches(Day day, LocalDate date) {
        if (date.getDayOfWeek() != day.weekday()) {
            return false;
        }
        if (day.ordinal() == 0) {
            return true;
        }
        boolean inMonth = parts.unit() == Unit.MONTH || !parts.months().isEmpty();
        int number = inMonth ? date.getDayOfMonth() : date.getDayOfYear();
        int length = inMonth ? date.lengthOfMonth() : date.lengthOfYear();
        return day.ordinal() > 0 ? (number - 1) / 7 + 1 == day.ordinal() : (length - number) / 7 + 1 == -day.ordinal();
    }

    /** What no BY part says comes from DTSTART. */
    private boolean startsOwnDay(LocalDate date) {
        boolean noDate = parts.yearDays().isEmpty() && parts.monthDays().isEmpty();
        if (!noDate || !parts.days().isEmpty()) {
            return true;
        }
        return switch (parts.unit()) {
            case WEEK -> date.getDayOfWeek() == start.getDayOfWeek();
            case MONTH -> date.getDayOfMonth() == start.getDayOfMonth();
            case YEAR ->
                !parts.weeks().isEmpty()
                        ? date.getDayOfWeek() == start.getDayOfWeek()
                        : date.getDayOfMonth() == start.getDayOfMonth()
                                && (!parts.months().isEmpty() || date.getMonthValue() == start.getMonthValue());
            default -> true;
        };
    }
}
