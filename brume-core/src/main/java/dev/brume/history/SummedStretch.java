package dev.brume.history;

import java.time.Instant;

/**
 * What was planned in an hour or a day, summed up.
 *
 * @param from inclusive
 * @param until exclusive
 * @param sums of the lines of one job
 * @since 0.1.0
 */
public record SummedStretch(Instant from, Instant until, LineSums sums) {}
