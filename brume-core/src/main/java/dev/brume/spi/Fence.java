package dev.brume.spi;

/**
 * Puts an epoch and a number together: the epoch in the high bits, so that it always decides.
 *
 * @since 0.1.0
 */
public final class Fence {
    private static final int NUMBER_BITS = 46;

    private Fence() {}

    /** {@return the fence of a lease} */
    public static long of(long epoch, long number) {
        return epoch << NUMBER_BITS | number;
    }
}
