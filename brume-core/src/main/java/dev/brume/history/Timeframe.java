package dev.brume.history;

import dev.brume.JobName;
import java.time.Instant;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * What was planned from one instant until another, of one job or of all.
 *
 * <p>Immutable and safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class Timeframe {
    private final Instant from;
    private final Instant until;
    private final @Nullable JobName job;
    private final boolean inSums;
    private final @Nullable Instant split;

    private Timeframe(Instant from, Instant until, @Nullable JobName job, boolean inSums, @Nullable Instant split) {
        this.from = from;
        this.until = until;
        this.job = job;
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
        return new Timeframe(from, until, null, /* inSums= */ false, null);
    }

    /** {@return a copy for one job, dropped ones of its name included} */
    public Timeframe of(JobName name) {
        return new Timeframe(from, until, name, inSums, split);
    }

    /**
     * {@return a copy in which plain lines are had in sums by the hour, where there are some: much faster, if whole hours suffice}
     *
     * @see JobAccount#sums
     */
    public Timeframe inSums() {
        return new Timeframe(from, until, job, /* inSums= */ true, split);
    }

    /** {@return a copy of which the hour that an instant is in is never had in sums, so that it can be told what was before} */
    public Timeframe splitAt(Instant instant) {
        return new Timeframe(from, until, job, inSums, instant);
    }

    /** {@return its begin, inclusive} */
    public Instant from() {
        return from;
    }

    /** {@return its end, exclusive} */
    public Instant until() {
        return until;
    }

    /** {@return the job it is about; empty for all} */
    public Optional<JobName> job() {
        return Optional.ofNullable(job);
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
