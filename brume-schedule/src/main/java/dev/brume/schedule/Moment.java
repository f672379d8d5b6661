package dev.brume.schedule;

import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.OffsetDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.time.zone.ZoneOffsetTransition;
import java.util.Set;

/**
 * A point in time as someone wrote it: an instant, or a local time of a zone. A local time in a gap means the
 * first instant after it, one in a fold the first of the two. Immutable.
 *
 * @param text what {@link #parse} reads back, given the same zone
 * @param occurrence the instant, the local time that was named, and what was done to it
 * @since 0.1.0
 */
public record Moment(String text, Occurrence occurrence) {
    private static final int LONGEST = 60;
    private static final int FIRST_YEAR = 1900;
    private static final int LAST_YEAR = 8999;

    /**
     * {@return an instant that every database can hold, with room on either side}
     *
     * @param subject what it is, for the message
     * @throws ScheduleSyntaxException if it lies before 1900 or not before 9000, UTC
     */
    public static Instant checked(String subject, Instant instant) {
        boolean inside = !instant.isBefore(Instant.parse(FIRST_YEAR + "-01-01T00:00:00Z"))
                && instant.isBefore(Instant.parse(LAST_YEAR + 1 + "-01-01T00:00:00Z"));
        if (!inside) {
            throw outside(subject, instant.toString());
        }
        return instant;
    }

    private static ScheduleSyntaxException outside(String subject, String text) {
        return ScheduleSyntaxException.of(
                text, ScheduleProblem.of(subject, text, 0, "lies outside " + FIRST_YEAR + " to " + LAST_YEAR));
    }

    /**
     * {@return the moment at an instant, cut to microseconds and shown in a zone}
     *
     * @throws ScheduleSyntaxException if it lies before 1900 or not before 9000
     */
    public static Moment at(Instant instant, ZoneId zone) {
        checked("time", instant);
        Instant cut = instant.truncatedTo(ChronoUnit.MICROS);
        return new Moment(cut.toString(), Occurrence.plain(cut, zone));
    }

    /**
     * {@return the moment at a local time of a zone, cut to seconds}
     *
     * @throws ScheduleSyntaxException if it lies before 1900 or not before 9000
     */
    public static Moment at(LocalDateTime local, ZoneId zone) {
        if (local.getYear() < FIRST_YEAR || local.getYear() > LAST_YEAR) {
            throw outside("time", local.toString());
        }
        LocalDateTime cut = local.truncatedTo(ChronoUnit.SECONDS);
        return new Moment(cut.toString(), resolve(cut, zone));
    }

    static Occurrence resolve(LocalDateTime local, ZoneId zone) {
        ZoneOffsetTransition transition = zone.getRules().getTransition(local);
        if (transition == null) {
            return Occurrence.plain(local.atZone(zone).toInstant(), zone);
        }
        if (transition.isGap()) {
            return new Occurrence(transition.getInstant(), local, zone, Set.of(Note.AFTER_GAP));
        }
        long nominal = local.toEpochSecond(ZoneOffset.UTC);
        Instant first =
                Instant.ofEpochSecond(nominal - transition.getOffsetBefore().getTotalSeconds());
        return new Occurrence(first, local, zone, Set.of(Note.FIRST_OF_FOLD));
    }

    /**
     * Reads an instant ({@code 2026-05-14T06:00:00Z}, any offset), or a local time of the zone given
     * ({@code 2026-05-14T06:00}, {@code 2026-05-14} for its first moment).
     *
     * @throws ScheduleSyntaxException if the text is none of these
     */
    public static Moment parse(String text, ZoneId zone) {
        String iso = text.strip().replaceFirst("^(\\d{4}-\\d{2}-\\d{2}) ", "$1T");
        if (iso.length() <= LONGEST) {
            try {
                if (iso.matches("\\d{4}-\\d{2}-\\d{2}")) {
                    return at(LocalDateTime.parse(iso + "T00:00"), zone);
                }
                return namesAnInstant(iso)
                        ? at(OffsetDateTime.parse(iso).toInstant(), zone)
                        : at(LocalDateTime.parse(iso), zone);
            } catch (DateTimeException malformed) {
                throw malformed(text);
            }
        }
        throw malformed(text);
    }

    /** {@return whether a text bears an offset, so that it means the same in every zone} */
    public static boolean namesAnInstant(String text) {
        return text.strip().matches(".*[T ].*([Zz]|[+-]\\d{2}(:?\\d{2})?)");
    }

    private static ScheduleSyntaxException malformed(String text) {
        String shown = text.length() > LONGEST ? text.substring(0, LONGEST) + "…" : text;
        return ScheduleSyntaxException.of(
                shown,
                ScheduleProblem.of(
                        "time",
                        shown,
                        0,
                        "is not a date and time (expected 2026-05-14T06:00, or with an offset 2026-05-14T06:00:00Z)"));
    }

    /** {@return the instant} */
    public Instant instant() {
        return occurrence.instant();
    }

    @Override
    public String toString() {
        return text;
    }
}
