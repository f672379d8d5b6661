package dev.brume;

import dev.brume.schedule.DayCalendar;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.OptionalLong;
import org.jspecify.annotations.Nullable;

/**
 * Definitions that come from one place and are put in force together.
 *
 * @since 0.1.0
 */
public final class DefinitionSet {
    /** The highest limit. */
    public static final int HIGHEST_LIMIT = 10_000;

    private final String source;
    private final OptionalLong revision;
    private final List<Job> jobs;
    private final Map<CalendarName, DayCalendar> calendars;
    private final Map<String, Integer> limits;

    private DefinitionSet(
            String source,
            OptionalLong revision,
            List<Job> jobs,
            Map<CalendarName, DayCalendar> calendars,
            Map<String, Integer> limits) {
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
        this.source = source;
        this.revision = revision;
        this.jobs = jobs;
        this.calendars = calendars;
        this.limits = limits;
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

    /** {@return where they come from, such as a file's name} */
    public String source() {
        return source;
    }

    /** {@return a number that rises with every edit of that source, if it states one: a lower one than is in force is not applied} */
    public OptionalLong revision() {
        return revision;
    }

    /** {@return the jobs; the calendars and limits they name are among these or defined already} */
    public List<Job> jobs() {
        return jobs;
    }

    /** {@return the calendars by name; a job's schedules refer to those of its own namespace} */
    public Map<CalendarName, DayCalendar> calendars() {
        return calendars;
    }

    /** {@return the limits by name: how many runs at once, in all namespaces together} */
    public Map<String, Integer> limits() {
        return limits;
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof DefinitionSet that && parts().equals(that.parts());
    }

    @Override
    public int hashCode() {
        return parts().hashCode();
    }

    private List<Object> parts() {
        return List.of(source, revision, jobs, calendars, limits);
    }

    @Override
    public String toString() {
        return "DefinitionSet" + parts();
    }
}
