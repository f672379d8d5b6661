package dev.brume.schedule;

import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.Objects;
import java.util.Optional;

/**
 * A single occurrence, at an instant or at a local time of a zone.
 *
 * <p>A local time in a gap is owed at the first instant after it, one in a fold the first time.
 * Immutable and safe for use by many threads.
 */
public final class OnceSchedule implements Schedule {
    private final String text;
    private final Occurrence occurrence;

    private OnceSchedule(String text, Occurrence occurrence) {
        this.text = text;
        this.occurrence = occurrence;
    }

    /** Creates the occurrence at an instant, cut to microseconds and shown in a zone. */
    public static OnceSchedule at(Instant instant, ZoneId zone) {
        Instant cut = instant.truncatedTo(ChronoUnit.MICROS);
        return new OnceSchedule(cut.toString(), Occurrence.plain(cut, zone));
    }

    /** Creates the occurrence at a local time of a zone, cut to seconds. */
    public static OnceSchedule at(LocalDateTime local, ZoneId zone) {
        LocalDateTime cut = local.truncatedTo(ChronoUnit.SECONDS);
        return new OnceSchedule(cut.toString(), resolve(cut, zone));
    }

    private static Occurrence resolve(LocalDateTime local, ZoneId zone) {
        long nominal = local.toEpochSecond(ZoneOffset.UTC);
        var transition = zone.getRules().getTransition(local);
        if (transition == null) {
            return Occurrence.plain(local.atZone(zone).toInstant(), zone);
        }
        if (transition.isGap()) {
            return new Occurrence(transition.getInstant(), local, zone, Optional.of(Note.AFTER_GAP));
        }
        Instant first =
                Instant.ofEpochSecond(nominal - transition.getOffsetBefore().getTotalSeconds());
        return new Occurrence(first, local, zone, Optional.of(Note.FIRST_OF_FOLD));
    }

    /**
     * Reads an instant ({@code 2026-05-14T06:00:00Z}, any offset) or a local time of the zone given
     * ({@code 2026-05-14T06:00}).
     *
     * @throws ScheduleSyntaxException if the text is neither
     */
    public static OnceSchedule parse(String text, ZoneId zone) {
        String iso = text.strip().replaceFirst("^(\\d{4}-\\d{2}-\\d{2}) ", "$1T");
        try {
            return iso.matches(".*T.*([Zz]|[+-]\\d{2}(:?\\d{2})?)$")
                    ? at(java.time.OffsetDateTime.parse(iso).toInstant(), zone)
                    : at(LocalDateTime.parse(iso), zone);
        } catch (DateTimeException malformed) {
            throw ScheduleSyntaxException.of(
                    text,
                    ScheduleProblem.of(
                            "once",
                            text,
                            0,
                            "is not a date and time (expected 2026-05-14T06:00, or with an offset 2026-05-14T06:00:00Z)"));
        }
    }

    /** Returns the single occurrence. */
    public Occurrence occurrence() {
        return occurrence;
    }

    @Override
    public ZoneId zone() {
        return occurrence.zone();
    }

    @Override
    public Optional<Occurrence> next(Instant after) {
        return occurrence.instant().isAfter(after) ? Optional.of(occurrence) : Optional.empty();
    }

    @Override
    public Optional<Occurrence> previous(Instant before) {
        return occurrence.instant().isBefore(before) ? Optional.of(occurrence) : Optional.empty();
    }

    @Override
    public String words() {
        return "Once, on " + Words.moment(occurrence.local()) + ", " + Words.zone(zone());
    }

    @Override
    public boolean equals(Object other) {
        return other instanceof OnceSchedule that && text.equals(that.text) && occurrence.equals(that.occurrence);
    }

    @Override
    public int hashCode() {
        return Objects.hash(text, occurrence);
    }

    /** Returns the text that {@link #parse} reads back, given the same zone. */
    @Override
    public String toString() {
        return text;
    }
}
