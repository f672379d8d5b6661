package dev.brume.benchmarks;

import java.util.Arrays;
import java.util.List;

/** Small statistics. */
final class Figures {
    private Figures() {}

    static double median(List<Double> values) {
        double[] sorted =
                values.stream().mapToDouble(Double::doubleValue).sorted().toArray();
        return sorted[sorted.length / 2];
    }

    /** The value below which a share of all lie. */
    static double quantile(List<Double> values, double share) {
        double[] sorted =
                values.stream().mapToDouble(Double::doubleValue).sorted().toArray();
        return sorted[(int) Math.min(sorted.length - 1L, (long) (sorted.length * share))];
    }

    /** The same of whole numbers. */
    static double quantile(long[] values, double share) {
        long[] sorted = values.clone();
        Arrays.sort(sorted);
        return sorted[(int) Math.min(sorted.length - 1L, (long) (sorted.length * share))];
    }
}
