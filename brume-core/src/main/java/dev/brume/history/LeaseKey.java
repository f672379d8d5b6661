package dev.brume.history;

import java.util.UUID;

/**
 * Names one lease of a run.
 *
 * @param run the run's id
 * @param session whose lease
 * @param fence its fence
 * @since 0.1.0
 */
public record LeaseKey(long run, UUID session, long fence) {}
