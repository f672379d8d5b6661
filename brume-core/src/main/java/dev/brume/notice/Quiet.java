package dev.brume.notice;

import dev.brume.CalendarName;
import dev.brume.schedule.DayCalendar;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.util.Optional;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/**
 * When a channel is quiet: what is to be told waits until that is over.
 *
 * @param from when it begins each day; empty if it has no hours, and only days of a calendar
 * @param until when it ends, on the next day if that is earlier; exclusive
 * @param days of which all hours are quiet
 * @param zone of the times and days
 * @since 0.1.0
 */
public record Quiet(Optional<LocalTime> from, Optional<LocalTime> until, Optional<CalendarName> days, ZoneId zone) {
    private static final int LONGEST_DAYS = 40;

    /** Checks it. */
    public Quiet {
        if (from.isPresent() != until.isPresent()) {
            throw new IllegalArgumentException("from and until go together");
        }
        if (from.isEmpty() && days.isEmpty()) {
            throw new IllegalArgumentException("has neither hours nor days (add from: and until:, or calendar:)");
        }
        if (from.isPresent() && from.equals(until)) {
            throw new IllegalArgumentException("from and until are the same");
        }
    }

    /** {@return one that is quiet between two times of day} */
    public static Quiet between(LocalTime from, LocalTime until, ZoneId zone) {
        return new Quiet(Optional.of(from), Optional.of(until), Optional.empty(), zone);
    }

    /**
     * {@return when it is over; empty if it is not quiet at an instant}
     *
     * @param calendars gives the days of a calendar; null if it is not there, which is quiet on no day
     */
    public Optional<Instant> over(Instant at, Function<CalendarName, @Nullable DayCalendar> calendars) {
        ZonedDateTime local = at.atZone(zone);
        Optional<DayCalendar> off = days.flatMap(name -> Optional.ofNullable(calendars.apply(name)));
        ZonedDateTime end = local;
        for (int i = 0; i < LONGEST_DAYS; i++) {
            Optional<ZonedDateTime> later = next(end, off);
            if (later.isEmpty()) {
                break;
            }
            end = later.get();
        }
        return end.equals(local) ? Optional.empty() : Optional.of(end.toInstant());
    }

    private Optional<ZonedDateTime> next(ZonedDateTime at, Optional<DayCalendar> off) {
        LocalDate day = at.toLocalDate();
        if (off.filter(calendar -> calendar.contains(day)).isPresent()) {
            return Optional.of(day.plusDays(1).atStartOfDay(zone));
        }
        if (from.isEmpty()) {
            return Optional.empty();
        }
        LocalTime time = at.toLocalTime();
        LocalTime begin = from.get();
        LocalTime end = until.orElseThrow();
        boolean overNight = end.isBefore(begin);
        if (overNight && !time.isBefore(begin)) {
            return Optional.of(day.plusDays(1).atTime(end).atZone(zone));
        }
        boolean isQuiet = overNight ? time.isBefore(end) : !time.isBefore(begin) && time.isBefore(end);
        return isQuiet ? Optional.of(day.atTime(end).atZone(zone)) : Optional.empty();
    }
}
