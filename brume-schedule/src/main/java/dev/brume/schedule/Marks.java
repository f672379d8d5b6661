package dev.brume.schedule;

import java.util.Arrays;

/**
 * Seconds of a quarter of an hour, a bit each, in {@value #WORDS} words. All modern offsets are whole quarters, so that quarters of several wall
 * clocks lie over one another.
 *
 * @since 0.1.0
 */
public final class Marks {
    /** How long a quarter is, in seconds. */
    public static final int SECONDS = 900;

    private static final int WORDS = (SECONDS + 63) / 64;
    private static final long[] NONE = new long[WORDS];

    private Marks() {}

    /** {@return a quarter without a mark, shared: never to be changed} */
    public static long[] none() {
        return NONE;
    }

    /** {@return a quarter without a mark, to be filled} */
    public static long[] empty() {
        return new long[WORDS];
    }

    /** Marks a second of a quarter, from 0 (inclusive) to {@value #SECONDS} (exclusive). */
    public static void set(long[] marks, int second) {
        marks[second >> 6] |= 1L << second;
    }

    /** {@return whether a second of a quarter is marked} */
    public static boolean has(long[] marks, int second) {
        return (marks[second >> 6] >> second & 1) != 0;
    }

    /** {@return how many seconds are marked} */
    static int count(long[] marks) {
        int count = 0;
        for (long word : marks) {
            count += Long.bitCount(word);
        }
        return count;
    }

    static void clear(long[] marks) {
        Arrays.fill(marks, 0);
    }

    /** Adds the marks of one to another. */
    static void add(long[] to, long[] marks) {
        for (int i = 0; i < WORDS; i++) {
            to[i] |= marks[i];
        }
    }
}
