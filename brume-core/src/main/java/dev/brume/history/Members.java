package dev.brume.history;

import java.util.List;
import java.util.stream.Collectors;

/**
 * The rows of one kind that a seal covers.
 *
 * @param numbers which
 * @param marks the mark of each, in the order of the numbers
 * @since 0.1.0
 */
public record Members(IdRanges numbers, String marks) {
    /** No rows. */
    public static final Members NONE = new Members(IdRanges.NONE, "");

    /** {@return rows as members, given in the order of their numbers} */
    public static Members of(List<SealedRow> rows) {
        return new Members(
                IdRanges.of(rows.stream().map(SealedRow::number).toList()),
                rows.stream().map(SealedRow::mark).collect(Collectors.joining()));
    }

    /** {@return the mark at a place, counted from 0; empty if there is none} */
    public String mark(long place) {
        long begin = place * Mark.LENGTH;
        long end = begin + Mark.LENGTH;
        return end <= marks.length() ? marks.substring((int) begin, (int) end) : "";
    }
}
