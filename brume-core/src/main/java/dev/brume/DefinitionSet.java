package dev.brume;

import dev.brume.notice.Telling;
import dev.brume.schedule.DayCalendar;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.Set;
import java.util.stream.Collectors;
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
    private final Map<String, Rate> rates;
    private final Optional<String> namespace;
    private final Writes writes;
    private final Optional<Telling> telling;

    /** Which jobs of a set are written. */
    public enum Writes {
        /** Those that are new, and those that are there already and differ. */
        ALL,
        /** Those that are new alone; one that is there stays as it is. */
        NEW,
        /** Those that are there already alone; one that is not is not added. */
        KNOWN
    }

    private DefinitionSet(
            String source,
            OptionalLong revision,
            List<Job> jobs,
            Map<CalendarName, DayCalendar> calendars,
            Map<String, Integer> limits,
            Map<String, Rate> rates,
            Optional<String> namespace,
            Writes writes,
            Optional<Telling> telling) {
        jobs = List.copyOf(jobs);
        calendars = Map.copyOf(calendars);
        Map<String, Integer> named = new HashMap<>();
        limits.forEach((name, places) -> {
            named.put(SharedName.parse(name, "limits"), places);
            if (places < 1 || places > HIGHEST_LIMIT) {
                throw new IllegalArgumentException(
                        "limits: " + name + ": " + places + " is outside 1 to " + HIGHEST_LIMIT);
            }
        });
        Map<String, Rate> rated = new HashMap<>();
        rates.forEach((name, rate) -> {
            String full = SharedName.parse(name, "limits");
            rated.put(full, rate);
            named.putIfAbsent(full, HIGHEST_LIMIT);
        });
        this.source = source;
        this.revision = revision;
        this.jobs = jobs;
        this.calendars = calendars;
        this.limits = Map.copyOf(named);
        this.rates = Map.copyOf(rated);
        this.namespace = namespace;
        this.writes = writes;
        this.telling = telling;
    }

    /**
     * {@return a set of jobs alone}
     *
     * @param source where they come from, such as a file's name
     */
    public static DefinitionSet of(String source, Collection<Job> jobs) {
        return new DefinitionSet(
                source,
                OptionalLong.empty(),
                List.copyOf(jobs),
                Map.of(),
                Map.of(),
                Map.of(),
                Optional.empty(),
                Writes.ALL,
                Optional.empty());
    }

    /** {@return the set with other jobs} */
    public DefinitionSet withJobs(Collection<Job> others) {
        return new DefinitionSet(
                source, revision, List.copyOf(others), calendars, limits, rates, namespace, writes, telling);
    }

    /** {@return the set with calendars} */
    public DefinitionSet withCalendars(Map<CalendarName, DayCalendar> days) {
        return new DefinitionSet(source, revision, jobs, days, limits, rates, namespace, writes, telling);
    }

    /**
     * {@return the set with limits}
     *
     * @param places how many runs at once, by {@linkplain SharedName name in full}, 1 to {@value #HIGHEST_LIMIT}
     * @throws IllegalArgumentException if one is outside that range, or no such name
     */
    public DefinitionSet withLimits(Map<String, Integer> places) {
        return new DefinitionSet(source, revision, jobs, calendars, places, rates, namespace, writes, telling);
    }

    /**
     * {@return the set with rates of limits}
     *
     * @param starts how many runs may begin in a time, by {@linkplain SharedName name in full}; a limit that has no number of its own has
     *     {@value #HIGHEST_LIMIT} places
     * @throws IllegalArgumentException if one is no such name
     */
    public DefinitionSet withRates(Map<String, Rate> starts) {
        return new DefinitionSet(source, revision, jobs, calendars, limits, starts, namespace, writes, telling);
    }

    /**
     * {@return the set as a revision of its source}
     *
     * @param number of this state of the source; one below what was put in force before is refused
     */
    public DefinitionSet withRevision(long number) {
        return new DefinitionSet(
                source, OptionalLong.of(number), jobs, calendars, limits, rates, namespace, writes, telling);
    }

    /**
     * {@return the set as one of a namespace: what its source has defined elsewhere is no business of it}
     *
     * @param name of all its jobs, even if it has none any more
     * @throws IllegalArgumentException if it is no name, or a job is in another namespace
     */
    public DefinitionSet within(String name) {
        if (!JobName.isName(name)) {
            throw new IllegalArgumentException(
                    "namespace: '" + name + "' is not a name (expected " + JobName.RULE + ")");
        }
        jobs.stream()
                .filter(job -> !job.name().namespace().equals(name))
                .findFirst()
                .ifPresent(job -> {
                    throw new IllegalArgumentException("job '" + job.name() + "' is not in the namespace " + name);
                });
        return new DefinitionSet(source, revision, jobs, calendars, limits, rates, Optional.of(name), writes, telling);
    }

    /**
     * {@return the set with what it says about notices} It takes the place of what its source has said before.
     */
    public DefinitionSet withTelling(Telling said) {
        return new DefinitionSet(
                source, revision, jobs, calendars, limits, rates, namespace, writes, Optional.of(said));
    }

    /** {@return what it says about notices; empty if it leaves that as it is} */
    public Optional<Telling> telling() {
        return telling;
    }

    /** {@return the set of which only such jobs are written} */
    public DefinitionSet writing(Writes which) {
        return new DefinitionSet(source, revision, jobs, calendars, limits, rates, namespace, which, telling);
    }

    /** {@return which of its jobs are written} */
    public Writes writes() {
        return writes;
    }

    /** {@return the namespaces in which it says what there is: the one that was stated, or those of its jobs} */
    public Set<String> namespaces() {
        return namespace
                .map(Set::of)
                .orElseGet(() -> jobs.isEmpty()
                        ? Set.of(JobName.MAIN)
                        : jobs.stream().map(job -> job.name().namespace()).collect(Collectors.toUnmodifiableSet()));
    }

    /**
     * {@return where they come from, as its revisions are known by: sources of different namespaces may have one name}
     *
     * <p>It begins with the namespace and a colon, which are left out in the namespace {@code main} unless the source has a colon of its own: so
     * no source reads like another's.
     */
    public String sourceInFull() {
        String within = namespace.orElse(JobName.MAIN);
        return within.equals(JobName.MAIN) && source.indexOf(':') < 0 ? source : within + ":" + source;
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

    /** {@return the calendars by name; a job's schedules refer to those of its own namespace, and to the cluster's} */
    public Map<CalendarName, DayCalendar> calendars() {
        return calendars;
    }

    /** {@return the limits by name in full: how many runs at once} */
    public Map<String, Integer> limits() {
        return limits;
    }

    /** {@return the rates of limits by name in full; of those that have none, as many runs may begin as have places} */
    public Map<String, Rate> rates() {
        return rates;
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
        return List.of(source, revision, jobs, calendars, limits, rates, namespace, writes, telling);
    }

    @Override
    public String toString() {
        return "DefinitionSet" + parts();
    }
}
