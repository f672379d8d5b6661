package dev.brume.port;

import dev.brume.JobKey;
import dev.brume.Outcome;
import dev.brume.RunState;
import java.time.Instant;
import java.util.Optional;

/**
 * Which runs to show.
 *
 * @param job only this job's
 * @param outcome only those that ended so
 * @param state only live ones in this state
 * @param from only those planned at or after
 * @param until only those planned before
 * @param limit how many at most
 */
public record RunFilter(
        Optional<JobKey> job,
        Optional<Outcome> outcome,
        Optional<RunState> state,
        Optional<Instant> from,
        Optional<Instant> until,
        int limit) {

    /** Returns a filter that lets everything through, up to a limit. */
    public static RunFilter newest(int limit) {
        return new RunFilter(
                Optional.empty(), Optional.empty(), Optional.empty(), Optional.empty(), Optional.empty(), limit);
    }

    /** Returns a copy for one job. */
    public RunFilter of(JobKey key) {
        return new RunFilter(Optional.of(key), outcome, state, from, until, limit);
    }
}
