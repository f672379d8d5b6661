package dev.brume.port;

import dev.brume.Job;
import java.time.Instant;
import java.util.Optional;

/**
 * A job to add.
 *
 * @param job the definition
 * @param source where it came from
 * @param at when it begins to owe
 * @param nextAt its first occurrence
 */
public record NewJob(Job job, String source, Instant at, Optional<Instant> nextAt) {}
