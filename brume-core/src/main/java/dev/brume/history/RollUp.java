package dev.brume.history;

import java.time.Instant;
import java.util.Map;
import java.util.SortedMap;

/**
 * The ledger of some whole hours as it is kept in sums.
 *
 * @param reach of which runs lines are in them
 * @param hours the sums by job id and the beginning of the hour
 * @since 0.1.0
 */
public record RollUp(Reach reach, Map<Long, SortedMap<Instant, HourSums>> hours) {}
