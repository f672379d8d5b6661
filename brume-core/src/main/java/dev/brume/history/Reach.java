package dev.brume.history;

/**
 * How far sealing has come among the rows of one kind.
 *
 * @param high beyond it, nothing is sealed
 * @param open numbers up to there that were not on record when their neighbours were sealed
 * @since 0.1.0
 */
public record Reach(long high, IdRanges open) {
    /** Nothing sealed. */
    public static final Reach NONE = new Reach(0, IdRanges.NONE);

    /** {@return how far it has come once some more rows are sealed} */
    public Reach past(IdRanges numbers) {
        long next = Math.max(high, numbers.highest().orElse(high));
        return new Reach(next, open.plus(IdRanges.between(high + 1, next)).minus(numbers));
    }
}
