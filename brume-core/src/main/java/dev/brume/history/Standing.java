package dev.brume.history;

import dev.brume.RunResult;
import java.util.Map;
import java.util.Set;

/**
 * Where some runs stand. A run that is in neither is not on record.
 *
 * @param live those that have not ended, one-offs that wait included
 * @param ended how the others did
 * @since 0.1.0
 */
public record Standing(Set<Long> live, Map<Long, RunResult> ended) {}
