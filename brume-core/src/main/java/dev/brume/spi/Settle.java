package dev.brume.spi;

import dev.brume.GateKey;
import dev.brume.Outcome;
import java.time.Instant;
import java.util.List;

/**
 * An end whose consequences are still to be drawn.
 *
 * @param run that ended
 * @param job its job's id
 * @param version of the definition it ran under, 0 if an older instance ended it
 * @param outcome how it ended
 * @param endedAt when
 * @param waited whether it had no place yet, so that none comes free
 * @param gates whose places come free, beside its job's
 * @since 0.1.0
 */
public record Settle(
        long run, long job, int version, Outcome outcome, Instant endedAt, boolean waited, List<GateKey> gates) {}
