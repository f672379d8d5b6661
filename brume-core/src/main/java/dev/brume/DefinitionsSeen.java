package dev.brume;

import java.util.Map;

/**
 * What was in force when someone looked, so that their change fails if it is no longer; what was not there is not in it.
 *
 * @param jobs their versions, by name
 * @param calendars their versions, by name
 * @param limits their places, by name
 */
public record DefinitionsSeen(
        Map<JobName, Integer> jobs, Map<CalendarName, Integer> calendars, Map<String, Integer> limits) {
    /** Makes all unmodifiable. */
    public DefinitionsSeen {
        jobs = Map.copyOf(jobs);
        calendars = Map.copyOf(calendars);
        limits = Map.copyOf(limits);
    }
}
