package dev.brume.cli;

import dev.brume.schedule.Durations;
import dev.brume.schedule.Moment;
import dev.brume.schedule.ScheduleSyntaxException;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.ZonedDateTime;
import java.time.format.DateTimeFormatter;
import java.time.temporal.ChronoUnit;
import java.util.Locale;

/** Writes and reads instants the way people do. */
final class Times {
    private static final DateTimeFormatter LOCAL =
            DateTimeFormatter.ofPattern("EEE uuuu-MM-dd HH:mm:ss", Locale.ENGLISH);
    private static final DateTimeFormatter SHORT = DateTimeFormatter.ofPattern("MM-dd HH:mm:ss", Locale.ENGLISH);
    private static final DateTimeFormatter CLOCK = DateTimeFormatter.ofPattern("HH:mm:ssxxx", Locale.ENGLISH);
    private static final DateTimeFormatter OFFSET =
            DateTimeFormatter.ofPattern("uuuu-MM-dd HH:mm:ssxxx", Locale.ENGLISH);

    private Times() {}

    /** This machine's clock, as finely as occurrences are kept. */
    static Instant now() {
        return Instant.now().truncatedTo(ChronoUnit.MICROS);
    }

    /** {@code Fri 2026-03-27 04:15:00}. */
    static String local(Instant instant, ZoneId zone) {
        return LOCAL.format(instant.atZone(zone));
    }

    /** {@code 03-27 04:15:00}: for tables that say the rest elsewhere. */
    static String dayAndTime(Instant instant, ZoneId zone) {
        return SHORT.format(instant.atZone(zone));
    }

    /** {@code 01:30:00-01:00} within a day, {@code 2027-05-14 06:00-03:00} beyond. */
    static String near(Instant instant, Instant now, ZoneId zone) {
        ZonedDateTime local = instant.atZone(zone);
        boolean today = local.toLocalDate().equals(now.atZone(zone).toLocalDate());
        return (today ? CLOCK : OFFSET).format(local);
    }

    /** The name of a zone, plain for all names of UTC. */
    static String name(ZoneId zone) {
        return isUtc(zone) ? "UTC" : zone.getId();
    }

    static boolean isUtc(ZoneId zone) {
        return zone.getRules().equals(ZoneOffset.UTC.getRules());
    }

    /** {@code 2026-03-27 04:15:00-01:00}. */
    static String withOffset(Instant instant, ZoneId zone) {
        return OFFSET.format(instant.atZone(zone));
    }

    /** {@code in 3 min}, {@code 5 h 12 min ago}, {@code now}. */
    static String relative(Instant instant, Instant now) {
        Duration distance = Duration.between(now, instant);
        if (distance.abs().compareTo(Duration.ofMillis(500)) < 0) {
            return "now";
        }
        return distance.isNegative() ? about(distance.negated()) + " ago" : "in " + about(distance);
    }

    /** The two largest units, rounded to the smaller. */
    static String about(Duration duration) {
        long seconds = duration.plusMillis(500).toSeconds();
        if (seconds < 60) {
            return seconds + " s";
        }
        long minutes = (seconds + 30) / 60;
        if (seconds < 600) {
            return seconds / 60 + " min" + rest(seconds % 60, " s");
        }
        if (minutes < 60) {
            return minutes + " min";
        }
        if (minutes < 24 * 60) {
            return minutes / 60 + " h" + rest(minutes % 60, " min");
        }
        long hours = (minutes + 30) / 60;
        return hours < 24 * 14 ? hours / 24 + " d" + rest(hours % 24, " h") : (hours + 12) / 24 + " d";
    }

    private static String rest(long amount, String unit) {
        return amount == 0 ? "" : " " + amount + unit;
    }

    /** {@code 1.2 s}, {@code 340 ms}. */
    static String took(Duration duration) {
        long millis = duration.toMillis();
        if (millis < 1000) {
            return millis + " ms";
        }
        return millis < 60_000 ? String.format(Locale.ROOT, "%.1f s", millis / 1000.0) : about(duration);
    }

    /** Reads an instant, a local time of a zone, or how long ago ({@code 2h}). */
    static Instant parse(String option, String text, ZoneId zone, Instant now) {
        if (text.equals("now")) {
            return now;
        }
        try {
            if (text.matches("\\d\\d:\\d\\d.*")) {
                return today(text, zone, now);
            }
            return text.matches("\\d.*[a-z]") && !text.contains("T")
                    ? now.minus(Durations.parse(text))
                    : Moment.parse(text, zone).instant();
        } catch (ScheduleSyntaxException e) {
            throw new UsageException(option + " '" + text + "' is not a time (expected 2026-05-14T06:00:00Z,"
                    + " 2026-05-14T06:00 in zone " + zone + ", 2026-05-14, 06:00 for today, or 2h for two hours ago)");
        }
    }

    /** A time of day as answers show it, with the offset that it has there or without one. */
    private static Instant today(String text, ZoneId zone, Instant now) {
        String offset = text.replaceFirst("^[0-9:.]+", "");
        try {
            ZoneId own = offset.isEmpty() ? zone : ZoneOffset.of(offset);
            return Moment.parse(now.atZone(own).toLocalDate() + "T" + text, own).instant();
        } catch (DateTimeException noOffset) {
            return Moment.parse(text, zone).instant();
        }
    }

    static Instant cut(Instant instant) {
        return instant.truncatedTo(ChronoUnit.SECONDS);
    }
}
