package dev.brume.port;

import dev.brume.Outcome;
import java.time.Instant;

/**
 * An end whose consequences are still to be drawn.
 *
 * @param run that ended
 * @param job its job's id
 * @param outcome how it ended
 * @param endedAt when
 */
public record Settle(long run, long job, Outcome outcome, Instant endedAt) {}
