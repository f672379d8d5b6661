package dev.brume.internal.order;

import dev.brume.history.CalendarRow;
import dev.brume.history.Pause;
import dev.brume.schedule.DayCalendar;
import dev.brume.spi.Transaction;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;

/**
 * A stretch of days that follow each other.
 *
 * @param since midnight, or now if it has begun, inclusive
 * @param until midnight, exclusive
 */
record PauseDays(Instant since, Instant until) {

    /**
     * {@return the stretches of a calendar that are not over}
     *
     * @throws IllegalArgumentException if there is no such calendar, it has no day to come, or one in every week
     */
    static List<PauseDays> of(Transaction tx, Pause.Days which, Instant now) {
        CalendarRow row = tx.calendars(List.of(which.calendar())).get(which.calendar());
        if (row == null) {
            throw new IllegalArgumentException(
                    "calendar " + which.calendar() + " is not there (brume calendars shows which are)");
        }
        DayCalendar calendar = row.days();
        if (!calendar.weekdays().isEmpty()) {
            throw new IllegalArgumentException(
                    "calendar " + which.calendar()
                            + " has days in every week, without an end; jobs leave such days out by 'except' in their schedules");
        }
        List<LocalDate> dates =
                calendar.dates().stream().filter(calendar::contains).toList();
        List<PauseDays> stretches = new ArrayList<>();
        int first = 0;
        for (int i = 0; i < dates.size(); i++) {
            if (i + 1 < dates.size() && dates.get(i + 1).equals(dates.get(i).plusDays(1))) {
                continue;
            }
            Instant until = midnight(dates.get(i).plusDays(1), which.zone());
            if (until.isAfter(now)) {
                Instant since = midnight(dates.get(first), which.zone());
                stretches.add(new PauseDays(since.isBefore(now) ? now : since, until));
            }
            first = i + 1;
        }
        return stretches;
    }

    private static Instant midnight(LocalDate date, ZoneId zone) {
        return date.atStartOfDay(zone).toInstant();
    }
}
