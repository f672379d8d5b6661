package dev.brume.spi;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Failure;
import dev.brume.history.Output;
import java.util.Optional;

/**
 * How an attempt ended, as its worker reports it.
 *
 * @param run that was held
 * @param last the attempt, ended
 * @param result what the work returned
 * @param output what the work printed
 * @param failure what else is known of why it failed
 * @param recorded whether the work itself has recorded it, together with what it wrote
 * @since 0.1.0
 */
public record Completion(
        LeasedRun run,
        Attempt last,
        Optional<String> result,
        Optional<Output> output,
        Failure failure,
        boolean recorded) {

    /** An end that left nothing behind and is still to be recorded. */
    public static Completion of(LeasedRun run, Attempt last) {
        return new Completion(run, last, Optional.empty(), Optional.empty(), Failure.UNKNOWN, /* recorded= */ false);
    }

    /** The end of an attempt that did not begin, or was broken off: the run is given back. */
    public static Completion handedBack(LeasedRun run, long startedNanos, long endedNanos, String why) {
        return of(run, run.attempt(startedNanos, endedNanos, AttemptEnd.HANDED_BACK, Optional.of(why)));
    }
}
