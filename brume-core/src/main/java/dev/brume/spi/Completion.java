package dev.brume.spi;

import dev.brume.AttemptEnd;
import dev.brume.Failure;
import dev.brume.history.Output;
import java.util.Optional;

/**
 * How an attempt ended, as its worker reports it.
 *
 * @param run that was held
 * @param end how
 * @param error what went wrong, in words
 * @param result what the work returned
 * @param output what the work printed
 * @param startedNanos the monotonic clock at its start
 * @param endedNanos the monotonic clock at its end
 * @param failure what else is known of why it failed
 * @param recorded whether the work itself has recorded it, together with what it wrote
 * @since 0.1.0
 */
public record Completion(
        LeasedRun run,
        AttemptEnd end,
        Optional<String> error,
        Optional<String> result,
        Optional<Output> output,
        long startedNanos,
        long endedNanos,
        Failure failure,
        boolean recorded) {

    /** An end that is still to be recorded. */
    public Completion(
            LeasedRun run,
            AttemptEnd end,
            Optional<String> error,
            Optional<String> result,
            Optional<Output> output,
            long startedNanos,
            long endedNanos) {
        this(run, end, error, result, output, startedNanos, endedNanos, Failure.UNKNOWN, /* recorded= */ false);
    }
}
