package dev.brume.jdbc;

import dev.brume.history.LineSums;
import dev.brume.history.Reach;
import dev.brume.history.RunFilter;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.Collection;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.SortedMap;
import java.util.SortedSet;
import java.util.TreeSet;

/**
 * The hours in which the ledger's sums say that lines of some jobs lie: what is rare is found by them without an index of its own.
 *
 * @param newestFirst their beginnings
 * @param reach which lines the sums know of; all others are to be looked at besides
 */
record LikelyHours(List<Instant> newestFirst, Reach reach) {
    /** With more, or more ranges of lines that are not summed up, other ways are no slower. */
    private static final int MOST = 1000;

    private static final int MOST_RANGES = 100;

    /** {@return the hours that may hold what a filter wants; empty if the sums cannot tell, or it is in too many} */
    static Optional<LikelyHours> of(Statements sql, RunFilter filter, Collection<Long> jobs) {
        Reach reach = JdbcRollUp.reach(sql, "");
        if (reach.high() == 0 || reach.open().ranges().size() > MOST_RANGES) {
            return Optional.empty();
        }
        Query query = new Query()
                .in("job_id", jobs)
                .and("day_at > ?", filter.from().map(from -> from.minus(1, ChronoUnit.DAYS)))
                .and("day_at < ?", filter.until())
                .and("day_at <= ?", filter.below().map(RunFilter.Below::planned));
        record Summed(Instant day, String hours) {}
        List<Summed> days = sql.query(
                "select day_at, hours from brume_roll_up where 1 = 1" + query + " order by day_at desc limit ?",
                row -> new Summed(row.instant("day_at"), row.text("hours")),
                query.valuesAnd(MOST));
        SortedSet<Instant> hours = new TreeSet<>(Comparator.reverseOrder());
        for (Summed day : days) {
            Optional<SortedMap<Instant, LineSums>> sums = LineSumsText.hours(day.day, day.hours);
            if (sums.isEmpty()) {
                return Optional.empty();
            }
            sums.get().forEach((hour, sum) -> {
                if (mayHold(sum, filter)) {
                    hours.add(hour);
                }
            });
        }
        return days.size() == MOST || hours.size() > MOST
                ? Optional.empty()
                : Optional.of(new LikelyHours(List.copyOf(hours), reach));
    }

    private static boolean mayHold(LineSums sums, RunFilter filter) {
        return filter.outcome()
                .map(outcome -> sums.others() > 0 || sums.outcomes().getOrDefault(outcome, 0L) > 0)
                .orElse(true);
    }
}
