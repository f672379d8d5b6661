package dev.brume.history;

/**
 * The output of an attempt, within a bound.
 *
 * @param text the head and the tail
 * @param bytes how many bytes there were
 * @param omitted how many of them were left out in the middle
 * @since 0.1.0
 */
public record Output(String text, long bytes, long omitted) {}
