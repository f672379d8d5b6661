package dev.brume;

import java.util.EnumSet;
import java.util.Objects;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Which events a listener wants: of some kinds, of some jobs, of jobs that carry some tags. An empty set
 * matches everything; of several jobs and tags, one must fit.
 *
 * <p>Immutable and safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class EventFilter {
    /** Every event. */
    public static final EventFilter ALL = new EventFilter(Set.of(), JobScope.ALL);

    private final Set<Event.Kind> kinds;
    private final JobScope jobs;

    private EventFilter(Set<Event.Kind> kinds, JobScope jobs) {
        this.kinds = Set.copyOf(kinds);
        this.jobs = jobs;
    }

    /** Wants events of some kinds. */
    public static EventFilter of(Event.Kind first, Event.Kind... more) {
        return new EventFilter(EnumSet.of(first, more), JobScope.ALL);
    }

    /**
     * Narrows it down to a job, beside those named before.
     *
     * @param name {@code name} or {@code namespace/name}
     * @throws IllegalArgumentException if it is neither
     */
    public EventFilter job(String name) {
        return new EventFilter(kinds, jobs.andJob(name));
    }

    /** Narrows it down to jobs that carry a tag, beside those named before. */
    public EventFilter tag(String tag) {
        return new EventFilter(kinds, jobs.andTag(tag));
    }

    /** {@return whether a kind is wanted at all} */
    public boolean wants(Event.Kind kind) {
        return kinds.isEmpty() || kinds.contains(kind);
    }

    /** {@return the kinds that are wanted; empty for all} */
    public Set<Event.Kind> kinds() {
        return kinds;
    }

    /** {@return the jobs whose events are wanted; with {@link JobScope#ALL}, also those about no job} */
    public JobScope jobs() {
        return jobs;
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof EventFilter that && kinds.equals(that.kinds) && jobs.equals(that.jobs);
    }

    @Override
    public int hashCode() {
        return Objects.hash(kinds, jobs);
    }

    @Override
    public String toString() {
        return (kinds.isEmpty() ? "all kinds" : "kinds " + kinds) + " of " + jobs;
    }
}
