package dev.brume;

import java.util.HashSet;
import java.util.Objects;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Some of the jobs: all of them, or those of some names or tags.
 *
 * <p>Immutable: each method returns another one.
 *
 * @since 0.1.0
 */
public final class JobScope {
    /** Every job. */
    public static final JobScope ALL = new JobScope(Set.of(), Set.of());

    private final Set<JobName> jobs;
    private final Set<String> tags;

    private JobScope(Set<JobName> jobs, Set<String> tags) {
        this.jobs = Set.copyOf(jobs);
        this.tags = Set.copyOf(tags);
    }

    /**
     * {@return a scope of one job}
     *
     * @param name {@code name} or {@code namespace/name}
     * @throws IllegalArgumentException if it is neither
     */
    public static JobScope job(String name) {
        return ALL.andJob(name);
    }

    /** {@return a scope of the jobs that carry a tag} */
    public static JobScope tag(String tag) {
        return ALL.andTag(tag);
    }

    /**
     * {@return a scope that also holds a job; the first one narrows {@link #ALL} down to it}
     *
     * @param name {@code name} or {@code namespace/name}
     * @throws IllegalArgumentException if it is neither
     */
    public JobScope andJob(String name) {
        Set<JobName> all = new HashSet<>(jobs);
        all.add(JobName.parse(name));
        return new JobScope(all, tags);
    }

    /** {@return a scope that also holds the jobs that carry a tag; the first one narrows {@link #ALL} down to them} */
    public JobScope andTag(String tag) {
        Set<String> all = new HashSet<>(tags);
        all.add(tag);
        return new JobScope(jobs, all);
    }

    /** {@return whether every job is in it} */
    public boolean isAll() {
        return jobs.isEmpty() && tags.isEmpty();
    }

    /** {@return the jobs that it names} */
    public Set<JobName> jobs() {
        return jobs;
    }

    /** {@return the tags that it names} */
    public Set<String> tags() {
        return tags;
    }

    /** {@return whether the tags of a job matter} */
    public boolean usesTags() {
        return !tags.isEmpty();
    }

    /**
     * {@return whether a job is in it}
     *
     * @param job its name
     * @param itsTags the tags of its definition in force
     */
    public boolean holds(JobName job, Set<String> itsTags) {
        return isAll() || jobs.contains(job) || tags.stream().anyMatch(itsTags::contains);
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof JobScope that && jobs.equals(that.jobs) && tags.equals(that.tags);
    }

    @Override
    public int hashCode() {
        return Objects.hash(jobs, tags);
    }

    @Override
    public String toString() {
        return isAll() ? "all jobs" : "jobs " + jobs + ", tags " + tags;
    }
}
