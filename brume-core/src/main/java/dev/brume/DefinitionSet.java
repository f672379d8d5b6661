package dev.brume;

import dev.brume.schedule.DayCalendar;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.OptionalLong;

/**
 * Definitions that come from one place and are put in force together.
 *
 * @param source where they come from, such as a file's name
 * @param revision a number that rises with every edit of that source, if it states one: a lower one than is in force is not
 *     applied
 * @param jobs whose schedules name calendars, and which name limits, that are among these or defined already
 * @param calendars by name; a job's schedules refer to those of its own namespace
 * @param limits how many runs at once, by name; shared by all namespaces
 */
public record DefinitionSet(
        String source,
        OptionalLong revision,
        List<Job> jobs,
        Map<CalendarName, DayCalendar> calendars,
        Map<String, Integer> limits) {
    /** The highest limit. */
    public static final int HIGHEST_LIMIT = 10_000;

    /**
     * Creates a set.
     *
     * @throws IllegalArgumentException if a limit is outside 1 to {@value #HIGHEST_LIMIT}
     */
    public DefinitionSet {
        jobs = List.copyOf(jobs);
        calendars = Map.copyOf(calendars);
        limits = Map.copyOf(limits);
        limits.forEach((name, places) -> {
            new GateKey(GateKey.Kind.LIMIT, name);
            if (places < 1 || places > HIGHEST_LIMIT) {
                throw new IllegalArgumentException(
                        "limits: " + name + ": " + places + " is outside 1 to " + HIGHEST_LIMIT);
            }
        });
    }

    /**
     * {@return a set of jobs alone}
     *
     * @param source where they come from, such as a file's name
     */
    public static DefinitionSet of(String source, Collection<Job> jobs) {
        return new DefinitionSet(source, OptionalLong.empty(), List.copyOf(jobs), Map.of(), Map.of());
    }

    /** {@return the set with calendars} */
    public DefinitionSet withCalendars(Map<CalendarName, DayCalendar> days) {
        return new DefinitionSet(source, revision, jobs, days, limits);
    }

    /**
     * {@return the set with limits}
     *
     * @param places how many runs at once, by name, 1 to {@value #HIGHEST_LIMIT}
     * @throws IllegalArgumentException if one is outside that range
     */
    public DefinitionSet withLimits(Map<String, Integer> places) {
        return new DefinitionSet(source, revision, jobs, calendars, places);
    }

    /**
     * {@return the set as a revision of its source}
     *
     * @param number of this state of the source; one below what was put in force before is refused
     */
    public DefinitionSet withRevision(long number) {
        return new DefinitionSet(source, OptionalLong.of(number), jobs, calendars, limits);
    }
}
