package dev.brume.internal.text;

import java.io.ByteArrayOutputStream;

/**
 * Writes numbers into few bytes: seven bits a byte, lowest first, with the eighth bit set where more follow. Confined to one thread.
 *
 * @see PackedReader
 */
public final class PackedWriter {
    private static final int MORE = 0x80;
    private static final int SEVEN = 7;

    private final ByteArrayOutputStream bytes = new ByteArrayOutputStream();

    /** Writes a number; one below zero takes ten bytes. */
    public void number(long number) {
        long left = number;
        while ((left & -MORE) != 0) {
            bytes.write((int) (left & (MORE - 1)) | MORE);
            left >>>= SEVEN;
        }
        bytes.write((int) left);
    }

    /** Writes a number that may well be below zero. */
    public void signed(long number) {
        number(number << 1 ^ number >> Long.SIZE - 1);
    }

    /** Writes a number that may be any, in eight bytes. */
    public void any(long number) {
        for (int shift = 0; shift < Long.SIZE; shift += Byte.SIZE) {
            bytes.write((int) (number >>> shift));
        }
    }

    /** Writes bytes, and before them how many. */
    public void bytes(byte[] some) {
        number(some.length);
        bytes.writeBytes(some);
    }

    /** {@return all that was written} */
    public byte[] toBytes() {
        return bytes.toByteArray();
    }
}
