package dev.brume.spi;

import dev.brume.history.LeaseKey;
import java.util.Set;

/**
 * Ends that were put on record.
 *
 * @param accepted the leases that still held; the others were refused
 * @param unsettled the runs whose ends are still to be settled: something follows them, or somebody awaits them
 * @since 0.1.0
 */
public record Ended(Set<LeaseKey> accepted, Set<Long> unsettled) {}
