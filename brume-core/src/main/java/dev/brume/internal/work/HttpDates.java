package dev.brume.internal.work;

import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.time.format.DateTimeFormatterBuilder;
import java.time.temporal.ChronoField;
import java.util.List;
import java.util.Locale;
import java.util.Optional;

/** Reads dates as HTTP writes them, in each of the three forms of RFC 9110, 5.6.7. Stateless. */
final class HttpDates {
    /** A year of two digits is not more than so many years ahead. */
    private static final int YEARS_AHEAD = 50;

    private HttpDates() {}

    /** {@return the instant; empty if the text is no such date} */
    static Optional<Instant> parse(String text, Instant now) {
        int year = LocalDate.ofInstant(now, ZoneOffset.UTC).getYear();
        DateTimeFormatter twoDigits = new DateTimeFormatterBuilder()
                .appendPattern("EEEE, dd-MMM-")
                .appendValueReduced(ChronoField.YEAR, 2, 2, year + YEARS_AHEAD - 99)
                .appendPattern(" HH:mm:ss 'GMT'")
                .toFormatter(Locale.ENGLISH);
        for (DateTimeFormatter form : List.of(
                DateTimeFormatter.RFC_1123_DATE_TIME,
                twoDigits,
                DateTimeFormatter.ofPattern("EEE MMM ppd HH:mm:ss uuuu", Locale.ENGLISH))) {
            try {
                return Optional.of(LocalDateTime.parse(text, form).toInstant(ZoneOffset.UTC));
            } catch (DateTimeException otherForm) {
                // The next form is tried; what is none of them is told by the caller.
            }
        }
        return Optional.empty();
    }
}
