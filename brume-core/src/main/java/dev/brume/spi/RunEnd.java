package dev.brume.spi;

import dev.brume.Attempt;
import dev.brume.Outcome;
import dev.brume.Reason;
import dev.brume.history.LeaseKey;
import dev.brume.history.Output;
import java.time.Instant;
import java.util.Optional;

/**
 * The end of a leased run.
 *
 * @param lease that must still hold
 * @param job the run's
 * @param outcome how it ended
 * @param reason why, where the outcome alone does not say
 * @param last the attempt that ended it
 * @param result what it returned
 * @param output what it printed
 * @param settles whether something follows it for certain; the end of any other run is settled only if somebody awaits it
 * @param planned for when the run was planned
 * @param notable whether it is noted for those who are told, should it be a success; other ends are as the rules want it
 * @since 0.1.0
 */
public record RunEnd(
        LeaseKey lease,
        long job,
        Outcome outcome,
        Optional<Reason> reason,
        Attempt last,
        Optional<String> result,
        Optional<Output> output,
        boolean settles,
        Instant planned,
        boolean notable) {}
