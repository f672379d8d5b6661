package dev.brume.history;

import dev.brume.Allowance;
import java.time.Instant;

/**
 * The allowance of a namespace, as it is on record.
 *
 * @param allowance what the jobs of the namespace may be and use
 * @param setAt since when
 * @param setBy who set it
 * @since 0.1.0
 */
public record AllowanceRow(Allowance allowance, Instant setAt, String setBy) {}
