package dev.brume.cli;

import dev.brume.definitions.TimeText;
import dev.brume.schedule.Durations;
import dev.brume.schedule.Moment;
import dev.brume.schedule.ScheduleSyntaxException;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.time.temporal.ChronoUnit;
import java.util.Locale;

/** Writes and reads instants the way people do. */
final class Times {
    private static final DateTimeFormatter LOCAL =
            DateTimeFormatter.ofPattern("EEE uuuu-MM-dd HH:mm:ss", Locale.ENGLISH);
    private static final DateTimeFormatter SHORT = DateTimeFormatter.ofPattern("MM-dd HH:mm:ss", Locale.ENGLISH);

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
        return TimeText.near(instant, now, zone);
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
        return TimeText.withOffset(instant, zone);
    }

    /** {@code in 3m}, {@code 5h12m ago}, {@code now}. */
    static String relative(Instant instant, Instant now) {
        Duration distance = Duration.between(now, instant);
        Duration whole = distance.abs().plusMillis(500).truncatedTo(ChronoUnit.SECONDS);
        if (whole.isZero()) {
            return "now";
        }
        return distance.isNegative() ? Durations.about(whole) + " ago" : "in " + Durations.about(whole);
    }

    /** Reads an instant, a local time of a zone, or how long ago ({@code 2h}) or from now ({@code +2h}). */
    static Instant parse(String option, String text, ZoneId zone, Instant now) {
        if (text.equals("now")) {
            return now;
        }
        try {
            if (text.startsWith("+")) {
                return now.plus(Durations.parse(text.substring(1)));
            }
            if (text.matches("\\d\\d:\\d\\d.*")) {
                return today(text, zone, now);
            }
            return text.matches("\\d.*[a-z]") && !text.contains("T")
                    ? now.minus(Durations.parse(text))
                    : Moment.parse(text, zone).instant();
        } catch (ScheduleSyntaxException e) {
            throw new UsageException(option + " '" + text + "' is not a time (expected 2026-05-14T06:00:00Z,"
                    + " 2026-05-14T06:00 in zone " + zone
                    + ", 2026-05-14, 06:00 for today, 2h for two hours ago, or +2h for in two hours)");
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
