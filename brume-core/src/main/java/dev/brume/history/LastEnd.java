package dev.brume.history;

import dev.brume.Outcome;
import java.time.Instant;

/**
 * The end of the newest run of a job that has ended.
 *
 * @param run its id
 * @param outcome how
 * @param at when
 * @since 0.1.0
 */
public record LastEnd(long run, Outcome outcome, Instant at) {}
