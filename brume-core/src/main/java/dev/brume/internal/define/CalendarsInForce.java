package dev.brume.internal.define;

import dev.brume.CalendarName;
import dev.brume.Job;
import dev.brume.history.CalendarRow;
import dev.brume.schedule.DayCalendar;
import dev.brume.spi.Transaction;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;

/** The calendars that jobs go by, in their newest versions. Stateless. */
final class CalendarsInForce {
    private CalendarsInForce() {}

    /** Reads the calendars that jobs name. */
    static Map<CalendarName, CalendarRow> of(Transaction tx, Collection<Job> jobs) {
        Set<CalendarName> keys = new LinkedHashSet<>();
        jobs.forEach(job -> job.calendars().forEach(calendar -> keys.add(keyOf(job, calendar))));
        return keys.isEmpty() ? Map.of() : tx.calendars(keys);
    }

    /** {@return the jobs with their calendars} */
    static List<Job> resolve(List<Job> jobs, Map<CalendarName, CalendarRow> rows) {
        return jobs.stream().map(job -> job.withCalendars(daysOf(job, rows))).toList();
    }

    static CalendarName keyOf(Job job, DayCalendar calendar) {
        return CalendarName.in(job.name().namespace(), calendar.name());
    }

    static Map<String, DayCalendar> daysOf(Job job, Map<CalendarName, CalendarRow> rows) {
        Map<String, DayCalendar> days = new LinkedHashMap<>();
        job.calendars().forEach(calendar -> {
            CalendarRow row = rows.get(keyOf(job, calendar));
            if (row != null) {
                days.put(calendar.name(), row.days());
            }
        });
        return days;
    }
}
