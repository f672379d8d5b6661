package dev.brume.spi;

import java.util.Set;

/**
 * The live runs of jobs whose ends somebody waits for from now on.
 *
 * @param marked the runs whose ends will be settled
 * @param busy the jobs of which others held a live run locked; it may be ending this moment, without a look at who waits
 * @since 0.1.0
 */
public record Awaited(Set<Long> marked, Set<Long> busy) {}
