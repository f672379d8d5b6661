package dev.brume.http;

/**
 * Metrics as a text to be read by a program. Called from many threads at once.
 *
 * @since 0.1.0
 */
@FunctionalInterface
public interface MetricsText {
    /** {@return all metrics as OpenMetrics 1.0 has them} */
    String text();
}
