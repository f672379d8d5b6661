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

    private Timeframe(Instant from, Instant until, @Nullable JobName job) {
        this.from = from;
        this.until = until;
        this.job = job;
    }

    /**
     * All that was planned in a period.
     *
     * @param from inclusive
     * @param until exclusive
     */
    public static Timeframe between(Instant from, Instant until) {
        return new Timeframe(from, until, null);
    }

    /** {@return a copy for one job, dropped ones of its name included} */
    public Timeframe of(JobName name) {
        return new Timeframe(from, until, name);
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

    /** {@return whether an instant is in it} */
    public boolean holds(Instant planned) {
        return !planned.isBefore(from) && planned.isBefore(until);
    }
}
