package dev.brume.history;

/**
 * Names one version of a definition.
 *
 * @param job the job's id
 * @param number counted from 1
 * @since 0.1.0
 */
public record VersionKey(long job, int number) {}
