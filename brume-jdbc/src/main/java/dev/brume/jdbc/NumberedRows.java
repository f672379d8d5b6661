package dev.brume.jdbc;

import dev.brume.history.IdRanges;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.function.ToLongFunction;

/**
 * Reads rows by their numbers: those beyond one, and before them those that were left open.
 *
 * @param select up to and with a condition
 * @param column that numbers them
 */
record NumberedRows<T>(String select, String column, Statements.Mapper<T> mapper, ToLongFunction<T> number) {
    /** How many ranges one statement asks for. */
    private static final int RANGES = 100;

    /** The open ones lie below the others, so they come first. */
    List<T> read(Statements sql, long beyond, IdRanges open, int limit) {
        List<T> found = new ArrayList<>();
        List<IdRanges.Range> ranges = open.ranges();
        for (int from = 0; from < ranges.size() && found.size() < limit; from += RANGES) {
            List<IdRanges.Range> some = ranges.subList(from, Math.min(ranges.size(), from + RANGES));
            List<Object> values = new ArrayList<>();
            some.forEach(range -> values.addAll(List.of(range.first(), range.last())));
            values.add(limit - found.size());
            String between = column + " between ? and ?";
            found.addAll(sql.query(
                    select + " and (" + between + (" or " + between).repeat(some.size() - 1) + ") order by " + column
                            + " limit ?",
                    mapper,
                    values.toArray()));
        }
        if (found.size() < limit && beyond < Long.MAX_VALUE) {
            found.addAll(sql.query(
                    select + " and " + column + " > ? order by " + column + " limit ?",
                    mapper,
                    beyond,
                    limit - found.size()));
        }
        found.sort(Comparator.comparingLong(number));
        return found;
    }
}
