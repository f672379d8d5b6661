package dev.brume.spi;

import dev.brume.Attempt;
import dev.brume.RunState;
import dev.brume.history.LeaseKey;
import dev.brume.history.Output;
import dev.brume.history.RunRow;
import java.time.Instant;
import java.util.List;
import java.util.Optional;

/**
 * A leased run that is to be tried again.
 *
 * @param lease that must still hold
 * @param job the run's
 * @param state where it goes: {@code PLANNED} or {@code BACKING_OFF}
 * @param readyAt from when it may be claimed
 * @param attempts all its attempts so far, the one that ended now included
 * @param output what the attempt printed
 * @since 0.1.0
 */
public record RunRelease(
        LeaseKey lease, long job, RunState state, Instant readyAt, List<Attempt> attempts, Optional<Output> output) {

    /** {@return a run given back before its attempt began} */
    public static RunRelease back(RunRow run, Instant readyAt) {
        return new RunRelease(
                run.leaseKey(), run.owed().job(), RunState.PLANNED, readyAt, run.attempts(), Optional.empty());
    }
}
