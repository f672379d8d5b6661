package dev.brume;

import java.util.Map;

/**
 * The versions that a person saw before they decided on a change. The change fails if other versions are in force by then; something that did
 * not exist is not listed.
 *
 * @param jobs their versions, by name
 * @param calendars their versions, by name
 * @param limits their places, by name
 * @since 0.1.0
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
