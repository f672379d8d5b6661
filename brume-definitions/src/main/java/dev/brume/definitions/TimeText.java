package dev.brume.definitions;

import java.time.Instant;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.time.format.DateTimeFormatter;
import java.util.Locale;

/**
 * Instants as sentences have them. Stateless.
 *
 * @since 0.1.0
 */
public final class TimeText {
    private static final DateTimeFormatter CLOCK = DateTimeFormatter.ofPattern("HH:mm:ssxxx", Locale.ENGLISH);
    private static final DateTimeFormatter OFFSET =
            DateTimeFormatter.ofPattern("uuuu-MM-dd HH:mm:ssxxx", Locale.ENGLISH);

    private TimeText() {}

    /** {@return such as {@code 01:30:00-01:00} within the day of now, {@code 2027-05-14 06:00:00-03:00} beyond} */
    public static String near(Instant instant, Instant now, ZoneId zone) {
        ZonedDateTime local = instant.atZone(zone);
        boolean today = local.toLocalDate().equals(now.atZone(zone).toLocalDate());
        return (today ? CLOCK : OFFSET).format(local);
    }

    /** {@return such as {@code 2026-03-27 04:15:00-01:00}} */
    public static String withOffset(Instant instant, ZoneId zone) {
        return OFFSET.format(instant.atZone(zone));
    }
}
