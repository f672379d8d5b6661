package dev.brume.http.internal.draft;

import dev.brume.CalendarName;
import dev.brume.Job;
import dev.brume.history.History;
import dev.brume.schedule.DayCalendar;
import java.util.HashMap;
import java.util.Map;
import java.util.Optional;

/** Puts the calendars that are in force into a job that names them. Stateless. */
final class NamedDays {
    private NamedDays() {}

    /** {@return the job with the days of its calendars, as far as they are defined} */
    static Job in(Job job, History history) {
        if (job.calendars().isEmpty()) {
            return job;
        }
        Map<CalendarName, DayCalendar> all = new HashMap<>();
        history.calendars()
                .forEach(view -> all.put(view.row().name(), view.row().days()));
        Map<String, DayCalendar> days = new HashMap<>();
        for (DayCalendar named : job.calendars()) {
            Optional.ofNullable(all.get(CalendarName.in(job.name().namespace(), named.name())))
                    .ifPresent(found -> days.put(named.name(), found));
        }
        return job.withCalendars(days);
    }
}
