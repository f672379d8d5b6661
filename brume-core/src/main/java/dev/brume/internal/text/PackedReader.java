package dev.brume.internal.text;

import java.util.Arrays;

/**
 * Reads what was written with {@link PackedWriter}. Confined to one thread.
 *
 * <p>Whoever reads more than there is gets an {@link ArrayIndexOutOfBoundsException}.
 */
public final class PackedReader {
    private static final int SEVEN = 7;
    private static final int BITS = 0x7F;

    private final byte[] bytes;
    private int at;

    /** Reads some bytes, which nobody changes meanwhile. */
    public PackedReader(byte[] bytes) {
        this.bytes = bytes;
    }

    /** {@return whether there is more to read} */
    public boolean hasMore() {
        return at < bytes.length;
    }

    /** Reads a number. */
    public long number() {
        long number = 0;
        int shift = 0;
        byte next = bytes[at++];
        while (next < 0) {
            number |= (long) (next & BITS) << shift;
            shift += SEVEN;
            next = bytes[at++];
        }
        return number | (long) next << shift;
    }

    /** Reads a number that may be below zero. */
    public long signed() {
        long number = number();
        return number >>> 1 ^ -(number & 1);
    }

    /** Reads a number that was written in eight bytes. */
    public long any() {
        long number = 0;
        for (int shift = 0; shift < Long.SIZE; shift += Byte.SIZE) {
            number |= (bytes[at++] & 0xFFL) << shift;
        }
        return number;
    }

    /** Reads bytes. */
    public byte[] bytes() {
        int length = (int) number();
        byte[] some = Arrays.copyOfRange(bytes, at, at + length);
        at += length;
        return some;
    }
}
