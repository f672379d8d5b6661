package dev.brume.spi;

import dev.brume.GateKey;
import dev.brume.Outcome;
import java.time.Instant;
import java.util.List;
import java.util.Optional;

/**
 * An end whose consequences are still to be drawn, or a waiting run that somebody is to look at.
 *
 * @param run that ended, or waits
 * @param job its job's id
 * @param version of the definition it ran under, 0 if an older instance ended it
 * @param end how and when it ended; empty if it waits, and somebody must look whether it may go
 * @param waited whether it had no place yet, so that none comes free
 * @param gates whose places come free, beside its job's
 * @since 0.1.0
 */
public record Settle(long run, long job, int version, Optional<End> end, boolean waited, List<GateKey> gates) {

    /**
     * How and when a run ended.
     *
     * @param trace the W3C trace context of the attempt that ended it
     */
    public record End(Outcome outcome, Instant at, Optional<String> trace) {}

    /** {@return the note that a waiting run is to be looked at again} */
    public static Settle lookAgain(long run, long job) {
        return new Settle(run, job, 0, Optional.empty(), /* waited= */ true, List.of());
    }
}
