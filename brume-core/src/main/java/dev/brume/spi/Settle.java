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
 * @param held whether it had no place yet, so that none comes free
 * @param gates whose places come free, beside its job's
 */
public record Settle(
        long run, long job, int version, Outcome outcome, Instant endedAt, boolean held, List<GateKey> gates) {}
