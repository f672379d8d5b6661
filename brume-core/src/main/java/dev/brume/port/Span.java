package dev.brume.port;

import java.time.Instant;

/**
 * A stretch in which occurrences were passed over together.
 *
 * @param job the job's id
 * @param version the definition by which they were owed
 * @param from inclusive
 * @param until exclusive
 * @param first the first occurrence in it
 * @param last the last occurrence in it
 * @param count how many
 * @param reason why
 */
public record Span(
        long job, int version, Instant from, Instant until, Instant first, Instant last, long count, String reason) {}
