package dev.brume.history;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.List;
import java.util.OptionalLong;
import org.jspecify.annotations.Nullable;

/**
 * A set of numbers, kept and written as ranges: {@code 1-40,42,50-60}. Immutable.
 *
 * @since 0.1.0
 */
public final class IdRanges {
    /** No numbers. */
    public static final IdRanges NONE = new IdRanges(new long[0], new long[0]);

    private final long[] firsts;
    private final long[] lasts;

    private IdRanges(long[] firsts, long[] lasts) {
        this.firsts = firsts;
        this.lasts = lasts;
    }

    /**
     * A range.
     *
     * @param first inclusive
     * @param last inclusive
     */
    public record Range(long first, long last) {}

    /** {@return the set of all numbers from one to another, both included; none if the first is above the last} */
    public static IdRanges between(long first, long last) {
        return first > last ? NONE : new IdRanges(new long[] {first}, new long[] {last});
    }

    /** {@return the set of some numbers, in any order} */
    public static IdRanges of(Collection<Long> numbers) {
        long[] sorted = numbers.stream().mapToLong(Long::longValue).sorted().toArray();
        Gatherer gatherer = new Gatherer();
        for (long number : sorted) {
            gatherer.add(number, number);
        }
        return gatherer.ranges();
    }

    /** {@return the set of the numbers of ranges that are in order, none of which overlap} */
    public static IdRanges ofRanges(List<Range> ranges) {
        Gatherer gatherer = new Gatherer();
        for (Range range : ranges) {
            if (!gatherer.isBefore(range.first)) {
                throw new IllegalArgumentException("the range from " + range.first + " is out of order");
            }
            gatherer.add(range.first, range.last);
        }
        return gatherer.ranges();
    }

    /**
     * Reads the written form.
     *
     * @throws IllegalArgumentException if it cannot be read, or is not in order
     */
    public static IdRanges parse(String text) {
        if (text.isEmpty()) {
            return NONE;
        }
        Gatherer gatherer = new Gatherer();
        for (String part : text.split(",", -1)) {
            if (!part.matches("\\d{1,18}(-\\d{1,18})?")) {
                throw new IllegalArgumentException("'" + part + "' is not a range of numbers (expected 7 or 7-12)");
            }
            int dash = part.indexOf('-');
            long first = Long.parseLong(dash < 0 ? part : part.substring(0, dash));
            long last = dash < 0 ? first : Long.parseLong(part.substring(dash + 1));
            if (first > last || !gatherer.isBefore(first)) {
                throw new IllegalArgumentException("'" + part + "' is out of order");
            }
            gatherer.add(first, last);
        }
        return gatherer.ranges();
    }

    /** {@return the ranges, in order} */
    public List<Range> ranges() {
        List<Range> ranges = new ArrayList<>();
        for (int i = 0; i < firsts.length; i++) {
            ranges.add(new Range(firsts[i], lasts[i]));
        }
        return ranges;
    }

    /** {@return whether a number is in it} */
    public boolean contains(long number) {
        int at = Arrays.binarySearch(firsts, number);
        int before = at >= 0 ? at : -at - 2;
        return before >= 0 && number <= lasts[before];
    }

    /** {@return whether it is empty} */
    public boolean isEmpty() {
        return firsts.length == 0;
    }

    /** {@return the highest number; empty if there is none} */
    public OptionalLong highest() {
        return isEmpty() ? OptionalLong.empty() : OptionalLong.of(lasts[lasts.length - 1]);
    }

    /** {@return how many numbers are in it} */
    public long count() {
        long count = 0;
        for (int i = 0; i < firsts.length; i++) {
            count += lasts[i] - firsts[i] + 1;
        }
        return count;
    }

    /** {@return what is in either} */
    public IdRanges plus(IdRanges other) {
        Gatherer gatherer = new Gatherer();
        int a = 0;
        int b = 0;
        while (a < firsts.length || b < other.firsts.length) {
            boolean mine = b == other.firsts.length || a < firsts.length && firsts[a] <= other.firsts[b];
            gatherer.add(mine ? firsts[a] : other.firsts[b], mine ? lasts[a] : other.lasts[b]);
            a += mine ? 1 : 0;
            b += mine ? 0 : 1;
        }
        return gatherer.ranges();
    }

    /** {@return what is in this one only} */
    public IdRanges minus(IdRanges other) {
        Gatherer gatherer = new Gatherer();
        int b = 0;
        for (int a = 0; a < firsts.length; a++) {
            long from = firsts[a];
            while (b < other.firsts.length && other.lasts[b] < from) {
                b++;
            }
            int c = b;
            while (c < other.firsts.length && other.firsts[c] <= lasts[a]) {
                gatherer.add(from, other.firsts[c] - 1);
                from = other.lasts[c] + 1;
                c++;
            }
            gatherer.add(from, lasts[a]);
        }
        return gatherer.ranges();
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof IdRanges that && Arrays.equals(firsts, that.firsts) && Arrays.equals(lasts, that.lasts);
    }

    @Override
    public int hashCode() {
        return 31 * Arrays.hashCode(firsts) + Arrays.hashCode(lasts);
    }

    @Override
    public String toString() {
        StringBuilder text = new StringBuilder();
        for (int i = 0; i < firsts.length; i++) {
            text.append(i == 0 ? "" : ",").append(firsts[i]);
            if (lasts[i] > firsts[i]) {
                text.append('-').append(lasts[i]);
            }
        }
        return text.toString();
    }

    /** Takes ranges by their beginnings and joins those that meet. */
    private static final class Gatherer {
        private long[] firsts = new long[8];
        private long[] lasts = new long[8];
        private int size;

        boolean isBefore(long first) {
            return size == 0 || lasts[size - 1] < first;
        }

        void add(long first, long last) {
            if (first > last) {
                return;
            }
            if (size > 0 && first <= lasts[size - 1] + 1) {
                lasts[size - 1] = Math.max(lasts[size - 1], last);
                return;
            }
            if (size == firsts.length) {
                firsts = Arrays.copyOf(firsts, size * 2);
                lasts = Arrays.copyOf(lasts, size * 2);
            }
            firsts[size] = first;
            lasts[size++] = last;
        }

        IdRanges ranges() {
            return size == 0 ? NONE : new IdRanges(Arrays.copyOf(firsts, size), Arrays.copyOf(lasts, size));
        }
    }
}
