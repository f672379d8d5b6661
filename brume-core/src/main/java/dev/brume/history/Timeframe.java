package dev.brume.history;

import dev.brume.JobName;
import java.time.Instant;
import java.util.Collection;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * What was planned from one instant until another, of some jobs or of all.
 *
 * <p>Immutable and safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class Timeframe {
    private final Instant from;
    private final Instant until;
    private final Set<JobName> jobs;
    private final boolean inSums;
    private final @Nullable Instant split;

    private Timeframe(Instant from, Instant until, Set<JobName> jobs, boolean inSums, @Nullable Instant split) {
        this.from = from;
        this.until = until;
        this.jobs = jobs;
        this.inSums = inSums;
        this.split = split;
    }

    /**
     * All that was planned in a period.
     *
     * @param from inclusive
     * @param until exclusive
     */
    public static Timeframe between(Instant from, Instant until) {
        return new Timeframe(from, until, Set.of(), /* inSums= */ false, null);
    }

    /** {@return a copy for one job, dropped ones of its name included} */
    public Timeframe of(JobName name) {
        return of(Set.of(name));
    }

    /** {@return a copy for some jobs, dropped ones of their names included; for all if there is none} */
    public Timeframe of(Collection<JobName> names) {
        return new Timeframe(from, until, Set.copyOf(names), inSums, split);
    }

    /**
     * {@return a copy in which plain lines are had in sums by the hour, where there are some: much faster, if whole hours suffice}
     *
     * @see JobAccount#sums
     */
    public Timeframe inSums() {
        return new Timeframe(from, until, jobs, /* inSums= */ true, split);
    }

    /** {@return a copy of which the hour that an instant is in is never had in sums, so that it can be told what was before} */
    public Timeframe splitAt(Instant instant) {
        return new Timeframe(from, until, jobs, inSums, instant);
    }

    /** {@return its begin, inclusive} */
    public Instant from() {
        return from;
    }

    /** {@return its end, exclusive} */
    public Instant until() {
        return until;
    }

    /** {@return the jobs it is about; empty for all} */
    public Set<JobName> jobs() {
        return jobs;
    }

    /** {@return whether it is about a job, dropped or not, that has a name} */
    public boolean isAbout(JobName name) {
        return jobs.isEmpty() || jobs.contains(name);
    }

    /** {@return whether sums by the hour will do} */
    public boolean isInSums() {
        return inSums;
    }

    /** {@return where it is split} */
    public Optional<Instant> split() {
        return Optional.ofNullable(split);
    }

    /** {@return whether an instant is in it} */
    public boolean holds(Instant planned) {
        return !planned.isBefore(from) && planned.isBefore(until);
    }
}
