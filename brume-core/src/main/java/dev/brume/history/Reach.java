package dev.brume.history;

/**
 * How far something that is done to rows by their numbers has come, such as sealing, among the rows of one kind.
 *
 * @param high beyond it, nothing is done
 * @param open numbers up to there that were not on record when their neighbours were done
 * @since 0.1.0
 */
public record Reach(long high, IdRanges open) {
    /** Nothing done. */
    public static final Reach NONE = new Reach(0, IdRanges.NONE);

    /** {@return whether it has come to a number, and did not leave it open} */
    public boolean covers(long number) {
        return number <= high && !open.contains(number);
    }

    /** {@return how far it has come once some more rows are done} */
    public Reach past(IdRanges numbers) {
        long next = Math.max(high, numbers.highest().orElse(high));
        return new Reach(next, open.plus(IdRanges.between(high + 1, next)).minus(numbers));
    }
}
