package dev.brume.benchmarks;

/** How much of a benchmark is done: all of it, or with {@code -Dshort=true} as little as shows that it still runs. */
final class Scale {
    private static final boolean SHORT = Boolean.getBoolean("short");
    private static final double SHORT_SECONDS = 1;

    private Scale() {}

    /** {@return a number that a system property may set, another one where all is kept short} */
    static int number(String property, int full, int shortened) {
        return Integer.getInteger(property, SHORT ? shortened : full);
    }

    /** {@return how long to measure or to warm up} */
    static double seconds(double full) {
        return SHORT ? SHORT_SECONDS : full;
    }

    /** {@return the same where a system property may set it} */
    static double seconds(String property, int full) {
        return seconds(Integer.getInteger(property, full));
    }
}
