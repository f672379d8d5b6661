package dev.brume.port;

import dev.brume.Job;
import java.time.Instant;
import java.util.Optional;

/**
 * A definition to put in place of another.
 *
 * @param id the job
 * @param number the new version's number
 * @param job the new definition
 * @param source where it came from
 * @param at from when it holds
 * @param nextAt its first occurrence
 */
public record Redefinition(long id, int number, Job job, String source, Instant at, Optional<Instant> nextAt) {}
