package dev.brume.ical;

import dev.brume.schedule.Nearest;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.OffsetDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.temporal.Temporal;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.Set;
import net.fortuna.ical4j.model.Month;
import net.fortuna.ical4j.model.Recur;
import net.fortuna.ical4j.model.WeekDay;
import org.jspecify.annotations.Nullable;

/**
 * The parts of a RRULE, RFC 5545, section 3.3.10. Lists are empty where a part is absent.
 *
 * @param until the last local second, inclusive; {@link Long#MAX_VALUE} without UNTIL
 */
record RuleParts(
        Unit unit,
        int interval,
        OptionalInt count,
        long until,
        List<Integer> months,
        List<Integer> weeks,
        List<Integer> yearDays,
        List<Integer> monthDays,
        List<Day> days,
        List<Integer> hours,
        List<Integer> minutes,
        List<Integer> seconds,
        List<Integer> positions,
        DayOfWeek weekStart) {
    static final int MOST_COUNT = 100_000;
    private static final int LONGEST = 2000;
    private static final List<String> NAMES = List.of(
            "FREQ",
            "UNTIL",
            "COUNT",
            "INTERVAL",
            "BYSECOND",
            "BYMINUTE",
            "BYHOUR",
            "BYDAY",
            "BYMONTHDAY",
            "BYYEARDAY",
            "BYWEEKNO",
            "BYMONTH",
            "BYSETPOS",
            "WKST");

    /** How long a period of the rule is. */
    enum Unit {
        SECOND,
        MINUTE,
        HOUR,
        DAY,
        WEEK,
        MONTH,
        YEAR
    }

    /**
     * A weekday, or the n-th of it.
     *
     * @param ordinal 0 for every one; negative from the end
     */
    record Day(DayOfWeek weekday, int ordinal) {}

    /**
     * Reads a RRULE's value.
     *
     * @param zone the zone of its local times, for an UNTIL in UTC
     */
    static RuleParts read(String written, ZoneId zone) {
        if (written.length() > LONGEST) {
            throw Problems.of("RRULE", written, 0, "is longer than " + LONGEST + " characters");
        }
        String text = written.replaceAll("\\s+", "").replaceFirst(";+$", "").toUpperCase(Locale.ROOT);
        checkNames(text);
        Recur<Temporal> recur;
        try {
            recur = new Recur<>(text);
        } catch (RuntimeException e) {
            // The library refuses with exceptions of several kinds, some of them by accident.
            throw Problems.of("RRULE", text, 0, "cannot be read: " + e.getMessage());
        }
        RuleParts parts = new RuleParts(
                unit(recur),
                recur.getInterval() < 0 ? 1 : recur.getInterval(),
                recur.getCount() < 0 ? OptionalInt.empty() : OptionalInt.of(recur.getCount()),
                until(recur.getUntil(), zone),
                recur.getMonthList().stream().map(Month::getMonthOfYear).toList(),
                List.copyOf(recur.getWeekNoList()),
                List.copyOf(recur.getYearDayList()),
                List.copyOf(recur.getMonthDayList()),
                days(recur.getDayList()),
                List.copyOf(recur.getHourList()),
                List.copyOf(recur.getMinuteList()),
                List.copyOf(recur.getSecondList()),
                List.copyOf(recur.getSetPosList()),
                recur.getWeekStartDay() == null ? DayOfWeek.MONDAY : weekday(recur.getWeekStartDay()));
        parts.check(text);
        return parts;
    }

    private static void checkNames(String text) {
        Set<String> seen = new HashSet<>();
        int index = 0;
        for (String part : text.split(";", -1)) {
            String name = part.replaceFirst("=.*", "").strip().toUpperCase(Locale.ROOT);
            if (!NAMES.contains(name)) {
                Optional<String> guess = Nearest.to(name, NAMES);
                throw Problems.of(
                        "RRULE", part, "is not a part of a rule (allowed: " + String.join(" ", NAMES) + ")", guess);
            }
            if (!part.contains("=") || part.strip().endsWith("=")) {
                throw Problems.of("RRULE", part, index, "has no value");
            }
            if (!seen.add(name)) {
                throw Problems.of("RRULE", part, index, "comes twice");
            }
            index += part.length() + 1;
        }
        if (!seen.contains("FREQ")) {
            throw Problems.of("RRULE", text, 0, "has no FREQ");
        }
        if (seen.contains("COUNT") && seen.contains("UNTIL")) {
            throw Problems.of("RRULE", text, 0, "has both COUNT and UNTIL (one of them at most)");
        }
    }

    private static Unit unit(Recur<?> recur) {
        return switch (recur.getFrequency()) {
            case SECONDLY -> Unit.SECOND;
            case MINUTELY -> Unit.MINUTE;
            case HOURLY -> Unit.HOUR;
            case DAILY -> Unit.DAY;
            case WEEKLY -> Unit.WEEK;
            case MONTHLY -> Unit.MONTH;
            case YEARLY -> Unit.YEAR;
        };
    }

    /** An UNTIL that is a date includes that whole day. */
    private static long until(@Nullable Temporal until, ZoneId zone) {
        if (until == null) {
            return Long.MAX_VALUE;
        }
        if (until instanceof LocalDate date) {
            return date.plusDays(1).atStartOfDay().toEpochSecond(ZoneOffset.UTC) - 1;
        }
        if (until instanceof OffsetDateTime instant) {
            return instant.atZoneSameInstant(zone).toLocalDateTime().toEpochSecond(ZoneOffset.UTC);
        }
        return LocalDateTime.from(until).toEpochSecond(ZoneOffset.UTC);
    }

    private static List<Day> days(List<WeekDay> written) {
        List<Day> days = new ArrayList<>();
        written.forEach(day -> days.add(new Day(weekday(day), day.getOffset())));
        return days;
    }

    private static DayOfWeek weekday(WeekDay day) {
        return switch (day.getDay()) {
            case MO -> DayOfWeek.MONDAY;
            case TU -> DayOfWeek.TUESDAY;
            case WE -> DayOfWeek.WEDNESDAY;
            case TH -> DayOfWeek.THURSDAY;
            case FR -> DayOfWeek.FRIDAY;
            case SA -> DayOfWeek.SATURDAY;
            case SU -> DayOfWeek.SUNDAY;
        };
    }

    private void check(String text) {
        refuseIf(interval < 1, text, "has an INTERVAL below 1");
        refuseIf(interval > 1_000_000, text, "has an INTERVAL above 1000000");
        refuseIf(count.isPresent() && count.getAsInt() < 1, text, "has a COUNT below 1");
        refuseIf(count.isPresent() && count.getAsInt() > MOST_COUNT, text, "has a COUNT above " + MOST_COUNT);
        refuseIf(!weeks.isEmpty() && unit != Unit.YEAR, text, "has BYWEEKNO, which belongs to FREQ=YEARLY");
        boolean byDate = unit == Unit.DAY || unit == Unit.WEEK || unit == Unit.MONTH;
        refuseIf(!yearDays.isEmpty() && byDate, text, "has BYYEARDAY, which does not go with this FREQ");
        refuseIf(!monthDays.isEmpty() && unit == Unit.WEEK, text, "has BYMONTHDAY, which does not go with WEEKLY");
        boolean ordinals = days.stream().anyMatch(day -> day.ordinal() != 0);
        boolean mayCount = unit == Unit.MONTH || unit == Unit.YEAR && weeks.isEmpty();
        refuseIf(
                ordinals && !mayCount,
                text,
                "counts weekdays in BYDAY, which goes with MONTHLY, or YEARLY without BYWEEKNO");
        boolean other = !months.isEmpty()
                || !weeks.isEmpty()
                || !yearDays.isEmpty()
                || !monthDays.isEmpty()
                || !days.isEmpty()
                || !hours.isEmpty()
                || !minutes.isEmpty()
                || !seconds.isEmpty();
        refuseIf(!positions.isEmpty() && !other, text, "has BYSETPOS without another BY part");
    }

    private static void refuseIf(boolean wrong, String text, String rule) {
        if (wrong) {
            throw Problems.of("RRULE", text, 0, rule);
        }
    }
}
