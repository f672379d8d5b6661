package dev.brume.spi;

import dev.brume.GateKey;
import java.time.Instant;
import java.util.List;

/**
 * A run that waits for places, as far as who comes first needs it.
 *
 * @param run its id
 * @param job its job's id
 * @param priority 9 first
 * @param planned earliest first
 * @param gates the shared gates it needs a place of, beside its job's
 * @since 0.1.0
 */
public record WaitingRun(long run, long job, int priority, Instant planned, List<GateKey> gates) {}
