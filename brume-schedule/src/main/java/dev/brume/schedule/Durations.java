package dev.brume.schedule;

import java.math.BigDecimal;
import java.time.Duration;
import java.time.format.DateTimeParseException;
import java.time.temporal.ChronoUnit;
import java.util.Locale;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * Reads and writes durations as people write them: {@code 90s}, {@code 1h30m}, {@code 250ms}, {@code
 * 2d}; ISO 8601 ({@code PT5M}) is read too.
 *
 * <p>Stateless and safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class Durations {
    private static final Pattern WHOLE = Pattern.compile("(?:\\d{1,9}(?:ms|s|m|h|d)|\\d{1,9}\\.\\d{1,3}s)+");
    private static final Pattern PART = Pattern.compile("(\\d{1,9})(\\.\\d{1,3})?(ms|s|m|h|d)");
    private static final int LONGEST_TEXT = 60;

    /** The longest that anything may be set to: a hundred years. */
    public static final Duration LONGEST = Duration.ofDays(36525);

    /**
     * {@return a duration that lies within its bounds}
     *
     * @param what it is, for the message
     * @param least inclusive
     * @param most inclusive
     * @throws IllegalArgumentException if it lies outside
     */
    public static Duration checked(String what, Duration value, Duration least, Duration most) {
        if (value.compareTo(least) < 0 || value.compareTo(most) > 0) {
            throw new IllegalArgumentException(
                    what + ": " + shown(value) + " is outside " + format(least) + " to " + format(most));
        }
        return value;
    }

    /** What is beyond all bounds may be beyond what can be counted as well. */
    private static String shown(Duration value) {
        return value.compareTo(LONGEST) > 0 ? value.toString() : format(value);
    }

    private Durations() {}

    /**
     * Reads a duration. Units are {@code d} (24 hours), {@code h}, {@code m}, {@code s}, which may have a fraction, and
     * {@code ms}.
     *
     * @throws ScheduleSyntaxException if the text is not a duration
     */
    public static Duration parse(String text) {
        String trimmed = text.strip();
        if (trimmed.length() <= LONGEST_TEXT && WHOLE.matcher(trimmed).matches()) {
            return sum(trimmed);
        }
        if (trimmed.length() <= LONGEST_TEXT && (trimmed.startsWith("P") || trimmed.startsWith("p"))) {
            try {
                return Duration.parse(trimmed);
            } catch (DateTimeParseException | ArithmeticException notIso) {
                throw malformed(text);
            }
        }
        throw malformed(text);
    }

    private static Duration sum(String text) {
        Duration total = Duration.ZERO;
        Matcher part = PART.matcher(text);
        while (part.find()) {
            long amount = Long.parseLong(part.group(1));
            total = total.plus(
                    switch (part.group(3)) {
                        case "d" -> Duration.ofDays(amount);
                        case "h" -> Duration.ofHours(amount);
                        case "m" -> Duration.ofMinutes(amount);
                        case "s" -> Duration.ofSeconds(amount).plusMillis(millis(part.group(2)));
                        default -> Duration.ofMillis(amount);
                    });
        }
        return total;
    }

    private static long millis(@Nullable String fraction) {
        return fraction == null ? 0 : new BigDecimal(fraction).movePointRight(3).longValueExact();
    }

    private static ScheduleSyntaxException malformed(String text) {
        String shown = text.length() > LONGEST_TEXT ? text.substring(0, LONGEST_TEXT) + "…" : text;
        String rule = text.strip().matches("\\d{1,9}")
                ? "has no unit"
                : "is not a duration (expected for example 30s, 5m, 1h30m, 2d)";
        ScheduleProblem problem = ScheduleProblem.of("duration", shown, 0, rule);
        boolean bare = rule.equals("has no unit");
        return ScheduleSyntaxException.of(shown, bare ? problem.suggesting(text.strip() + "s") : problem);
    }

    /** Writes a duration so that {@link #parse} reads it back, cut to milliseconds: {@code 1h30m}. */
    public static String format(Duration duration) {
        if (duration.compareTo(LONGEST.negated()) < 0) {
            // The least of all has no counterpart above zero.
            return duration.toString();
        }
        if (duration.isNegative()) {
            return "-" + format(duration.negated());
        }
        StringBuilder text = new StringBuilder();
        append(text, duration.toDaysPart(), "d");
        append(text, duration.toHoursPart(), "h");
        append(text, duration.toMinutesPart(), "m");
        append(text, duration.toSecondsPart(), "s");
        append(text, duration.toMillisPart(), "ms");
        return text.length() == 0 ? "0s" : text.toString();
    }

    /**
     * Writes about how long a duration is, so that {@link #parse} reads it: its two largest units, rounded, {@code 5h12m} or
     * {@code 24.6s}.
     */
    public static String about(Duration duration) {
        if (duration.isNegative()) {
            return "-" + about(duration.negated());
        }
        if (duration.toSeconds() >= LONGEST.toSeconds()) {
            return duration.toDays() + "d";
        }
        if (duration.toMillis() < 1000) {
            return duration.toMillis() + "ms";
        }
        if (duration.toMillis() < 59_950) {
            return String.format(Locale.ROOT, "%.1fs", duration.toMillis() / 1000.0)
                    .replace(".0s", "s");
        }
        ChronoUnit unit = ChronoUnit.DAYS;
        if (duration.toMillis() < 599_500) {
            unit = ChronoUnit.SECONDS;
        } else if (duration.toSeconds() < 86_370) {
            unit = ChronoUnit.MINUTES;
        } else if (duration.toMinutes() < 14 * 24 * 60 - 30) {
            unit = ChronoUnit.HOURS;
        }
        return format(duration.plus(unit.getDuration().dividedBy(2)).truncatedTo(unit));
    }

    private static void append(StringBuilder text, long amount, String unit) {
        if (amount > 0) {
            text.append(amount).append(unit);
        }
    }
}
