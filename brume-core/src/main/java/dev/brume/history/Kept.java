package dev.brume.history;

import dev.brume.JobName;
import dev.brume.Keep;
import java.time.Instant;

/**
 * How much the ledger keeps of a job.
 *
 * @param job its id
 * @param name its name
 * @param version its definition in force
 * @param keep its bounds
 * @param from before it, lines may have been removed
 * @since 0.1.0
 */
public record Kept(long job, JobName name, int version, Keep keep, Instant from) {}
