package dev.brume.history;

import dev.brume.Allowance;
import java.time.Instant;

/**
 * The allowance of a namespace, and how far it is used.
 *
 * @param namespace whose
 * @param allowance what its jobs may be and use
 * @param setAt since when
 * @param setBy who set it
 * @param jobs how many there are
 * @since 0.1.0
 */
public record AllowanceView(String namespace, Allowance allowance, Instant setAt, String setBy, int jobs) {}
