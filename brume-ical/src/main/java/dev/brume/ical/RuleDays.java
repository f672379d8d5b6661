package dev.brume.ical;

import dev.brume.ical.RuleParts.Day;
import dev.brume.ical.RuleParts.Unit;
import dev.brume.schedule.LocalTimes;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.util.List;
import java.util.stream.LongStream;

/** The days that a RRULE names: RFC 5545, section 3.3.10, the table of what BY parts do under each FREQ. */
final class RuleDays {
    private static final int FOUR_HUNDRED_YEARS = 146_097;

    private final RuleParts parts;
    private final LocalDate start;

    RuleDays(RuleParts parts, LocalDate start) {
        this.parts = parts;
        this.start = start;
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
            case MONTH -> {
                LocalDate first =
                        LocalDate.of((int) Math.floorDiv(period, 12L), (int) Math.floorMod(period, 12L) + 1, 1);
                yield filter(first.toEpochDay(), first.lengthOfMonth());
            }
            case YEAR -> {
                LocalDate first = LocalDate.of((int) period, 1, 1);
                yield filter(first.toEpochDay(), first.lengthOfYear());
            }
            default -> filter(period, 1);
        };
    }

    private long[] filter(long first, int length) {
        return LongStream.range(first, first + length).filter(this::matches).toArray();
    }

    /** {@return the nearest matching day beyond one, or {@link LocalTimes#NONE}} */
    long nearestMatching(long epochDay, boolean forwards) {
        for (int distance = 1; distance <= FOUR_HUNDRED_YEARS; distance++) {
            long day = forwards ? epochDay + distance : epochDay - distance;
            if (matches(day)) {
                return day;
            }
        }
        return LocalTimes.NONE;
    }

    boolean matches(long epochDay) {
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
