package dev.brume.history;

import java.util.List;
import java.util.Map;

/**
 * The ledger of some whole hours as it is kept in sums.
 *
 * @param reach of which runs lines are in them
 * @param stretches the sums by job id: of days, where all of a day is in the period, and of hours
 * @since 0.1.0
 */
public record RollUp(Reach reach, Map<Long, List<SummedStretch>> stretches) {}
