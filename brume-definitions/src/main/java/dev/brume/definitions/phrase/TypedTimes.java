package dev.brume.definitions.phrase;

import java.time.DateTimeException;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.Month;
import java.time.temporal.TemporalAdjusters;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.SortedSet;
import java.util.TreeSet;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/** Times, dates and days of the month as people type them. Stateless. */
final class TypedTimes {
    private static final Pattern TIME =
            Pattern.compile("(\\d{1,2})(?:\\s*[:.h]\\s*(\\d{2})|\\s*h)?\\s*(am|pm|a\\.m\\.|p\\.m\\.)?");
    private static final Pattern DAY = Pattern.compile("(\\d{1,2})(?:st|nd|rd|th|\\.)?");
    private static final Pattern WRITTEN_DATE =
            Pattern.compile("(\\d{1,2})(?:st|nd|rd|th|\\.)?\\s+(?:of\\s+)?([a-z]{3,9})\\.?\\s+(\\d{4})");
    private static final String BETWEEN = "\\s*[,;/]\\s*|\\s+and\\s+|\\s+(?=\\d)";

    private TypedTimes() {}

    private static String plain(String text) {
        return text.strip().toLowerCase(Locale.ROOT);
    }

    private static String shown(String text) {
        return text.length() > 40 ? text.substring(0, 40) + "…" : text;
    }

    /**
     * {@return the times of the day in a text such as {@code 8, 12:30 and 5pm}}
     *
     * @throws IllegalArgumentException if there are none, or something else is in it
     */
    static SortedSet<LocalTime> times(String text) {
        TreeSet<LocalTime> times = new TreeSet<>();
        for (String part : parts(text)) {
            times.add(time(part));
        }
        return times;
    }

    private static List<String> parts(String text) {
        List<String> parts = new ArrayList<>();
        for (String part : plain(text).split(BETWEEN)) {
            if (!part.isBlank()) {
                parts.add(part.strip());
            }
        }
        return parts;
    }

    /**
     * {@return a time of the day such as {@code 17:30}, {@code 17.30}, {@code 17h}, {@code 5:30 pm}, {@code noon} or {@code midnight}}
     *
     * @throws IllegalArgumentException if it is none
     */
    static LocalTime time(String text) {
        String plain = plain(text);
        if (plain.equals("noon")) {
            return LocalTime.NOON;
        }
        if (plain.equals("midnight")) {
            return LocalTime.MIDNIGHT;
        }
        Matcher matcher = TIME.matcher(plain);
        if (!matcher.matches()) {
            throw noTime(text);
        }
        int hour = Integer.parseInt(matcher.group(1));
        int minute = matcher.group(2) == null ? 0 : Integer.parseInt(matcher.group(2));
        String half = matcher.group(3);
        if (half != null) {
            if (hour < 1 || hour > 12) {
                throw noTime(text);
            }
            hour = hour % 12 + (half.startsWith("p") ? 12 : 0);
        }
        if (hour > 23 || minute > 59) {
            throw noTime(text);
        }
        return LocalTime.of(hour, minute);
    }

    private static IllegalArgumentException noTime(String text) {
        return new IllegalArgumentException("'" + shown(text)
                + "' is not a time of the day (expected for example 8, 17:30, 5:30 pm, noon or midnight)");
    }

    /**
     * {@return days of the month in a text such as {@code 1st, 15 and last}; {@value OnDays#LAST_DAY} for the last}
     *
     * @throws IllegalArgumentException if there are none, or something else is in it
     */
    static SortedSet<Integer> daysOfMonth(String text) {
        TreeSet<Integer> days = new TreeSet<>();
        for (String part : plain(text).split("\\s*[,;/]\\s*|\\s+and\\s+|\\s+")) {
            if (part.isBlank()) {
                continue;
            }
            Matcher day = DAY.matcher(part);
            int number = day.matches() ? Integer.parseInt(day.group(1)) : 0;
            if (part.equals("last")) {
                days.add(OnDays.LAST_DAY);
            } else if (number >= 1 && number <= 31) {
                days.add(number);
            } else {
                throw new IllegalArgumentException(
                        "'" + shown(part) + "' is not a day of a month (expected 1 to 31, or last)");
            }
        }
        return days;
    }

    /**
     * {@return a date such as {@code 2026-12-04}, {@code 4 Dec 2026}, {@code today}, {@code tomorrow} or {@code Friday}}
     *
     * @param today the day of whoever typed it
     * @throws IllegalArgumentException if it is none
     */
    static LocalDate date(String text, LocalDate today) {
        String plain = plain(text);
        if (plain.equals("today")) {
            return today;
        }
        if (plain.equals("tomorrow")) {
            return today.plusDays(1);
        }
        for (DayOfWeek day : DayOfWeek.values()) {
            if (plain.length() >= 3 && day.name().toLowerCase(Locale.ROOT).startsWith(plain)) {
                return today.with(TemporalAdjusters.next(day));
            }
        }
        Matcher written = WRITTEN_DATE.matcher(plain);
        try {
            if (written.matches()) {
                Optional<Month> month = month(written.group(2));
                if (month.isPresent()) {
                    return LocalDate.of(
                            Integer.parseInt(written.group(3)), month.get(), Integer.parseInt(written.group(1)));
                }
            }
            return LocalDate.parse(plain);
        } catch (DateTimeException none) {
            throw new IllegalArgumentException(
                    "'" + shown(text) + "' is not a date (expected for example 2026-12-04, 4 Dec 2026 or tomorrow)",
                    none);
        }
    }

    private static Optional<Month> month(String word) {
        for (Month month : Month.values()) {
            if (month.name().toLowerCase(Locale.ROOT).startsWith(word)) {
                return Optional.of(month);
            }
        }
        return Optional.empty();
    }

    /**
     * {@return a date and a time, such as {@code 2026-12-31 17:00} or {@code tomorrow at 5pm}}
     *
     * @param today the day of whoever typed it
     * @throws IllegalArgumentException if it is none
     */
    static LocalDateTime moment(String text, LocalDate today) {
        String plain = plain(text);
        Matcher iso = Pattern.compile("(\\d{4}-\\d{2}-\\d{2})t(\\d{2}:\\d{2}(:\\d{2})?)")
                .matcher(plain);
        try {
            if (iso.matches()) {
                return LocalDateTime.of(LocalDate.parse(iso.group(1)), LocalTime.parse(iso.group(2)));
            }
        } catch (DateTimeException none) {
            throw noMoment(text, none);
        }
        // The date comes first; wherever the two can be told apart, the longest date is meant.
        for (int at = plain.length() - 1; at > 0; at--) {
            if (Character.isWhitespace(plain.charAt(at))) {
                Optional<LocalDateTime> found =
                        both(plain.substring(0, at).replaceFirst("\\s+at$|,$", ""), plain.substring(at), today);
                if (found.isPresent()) {
                    return found.get();
                }
            }
        }
        throw noMoment(text, null);
    }

    private static Optional<LocalDateTime> both(String date, String time, LocalDate today) {
        try {
            return Optional.of(date(date, today).atTime(time(time)));
        } catch (IllegalArgumentException none) {
            return Optional.empty();
        }
    }

    private static IllegalArgumentException noMoment(String text, @Nullable Throwable cause) {
        return new IllegalArgumentException(
                "'" + shown(text)
                        + "' is not a date and a time (expected for example 2026-12-31 17:00 or tomorrow 5 pm)",
                cause);
    }
}
