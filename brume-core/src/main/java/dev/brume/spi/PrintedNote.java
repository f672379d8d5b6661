package dev.brume.spi;

import dev.brume.history.LeaseKey;
import dev.brume.history.Output;

/**
 * What a leased run has printed so far.
 *
 * @param lease that must still hold
 * @param soFar the end of it, without secrets
 * @since 0.1.0
 */
public record PrintedNote(LeaseKey lease, Output soFar) {}
