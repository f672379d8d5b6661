package dev.brume;

import java.util.EnumSet;
import java.util.HashSet;
import java.util.List;
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
    public static final EventFilter ALL = new EventFilter(Set.of(), Set.of(), Set.of());

    private final Set<Event.Kind> kinds;
    private final Set<JobName> jobs;
    private final Set<String> tags;

    private EventFilter(Set<Event.Kind> kinds, Set<JobName> jobs, Set<String> tags) {
        kinds = Set.copyOf(kinds);
        jobs = Set.copyOf(jobs);
        tags = Set.copyOf(tags);
        this.kinds = kinds;
        this.jobs = jobs;
        this.tags = tags;
    }

    /** Wants events of some kinds. */
    public static EventFilter of(Event.Kind first, Event.Kind... more) {
        return new EventFilter(EnumSet.of(first, more), Set.of(), Set.of());
    }

    /**
     * Narrows it down to a job, beside those named before.
     *
     * @param name {@code name} or {@code namespace/name}
     * @throws IllegalArgumentException if it is neither
     */
    public EventFilter job(String name) {
        Set<JobName> all = new HashSet<>(jobs);
        all.add(JobName.parse(name));
        return new EventFilter(kinds, all, tags);
    }

    /** Narrows it down to jobs that carry a tag, beside those named before. */
    public EventFilter tag(String tag) {
        Set<String> all = new HashSet<>(tags);
        all.add(tag);
        return new EventFilter(kinds, jobs, all);
    }

    /** {@return whether a kind is wanted at all} */
    public boolean wants(Event.Kind kind) {
        return kinds.isEmpty() || kinds.contains(kind);
    }

    /** {@return whether every job's events are wanted, and those about no job} */
    public boolean wantsAllJobs() {
        return jobs.isEmpty() && tags.isEmpty();
    }

    /**
     * {@return whether a job's events are wanted}
     *
     * @param job whose event it is
     * @param itsTags the tags of its definition in force
     */
    public boolean wants(JobName job, Set<String> itsTags) {
        return wantsAllJobs() || jobs.contains(job) || tags.stream().anyMatch(itsTags::contains);
    }

    /** {@return wanted; empty for all} */
    public Set<Event.Kind> kinds() {
        return kinds;
    }

    /** {@return wanted; empty for all, unless tags are named} */
    public Set<JobName> jobs() {
        return jobs;
    }

    /** {@return of jobs that are wanted; empty for all, unless jobs are named} */
    public Set<String> tags() {
        return tags;
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof EventFilter that && parts().equals(that.parts());
    }

    @Override
    public int hashCode() {
        return parts().hashCode();
    }

    private List<Object> parts() {
        return List.of(kinds, jobs, tags);
    }

    @Override
    public String toString() {
        return "EventFilter" + parts();
    }
}
