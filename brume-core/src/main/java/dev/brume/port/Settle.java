package dev.brume.port;

import dev.brume.GateKey;
import dev.brume.Outcome;
import java.time.Instant;
import java.util.List;

/**
 * An end whose consequences are still to be drawn.
 *
 * @param run that ended
 * @param job its job's id
 * @param outcome how it ended
 * @param endedAt when
 * @param held whether it had no place yet, so that none comes free
 * @param gates whose places come free, beside its job's
 */
public record Settle(long run, long job, Outcome outcome, Instant endedAt, boolean held, List<GateKey> gates) {}
