package dev.brume.spi;

import dev.brume.history.JobRow;
import java.util.Collections;
import java.util.Map;
import java.util.Set;

/**
 * The live runs of jobs whose ends somebody waits for from now on.
 *
 * @param marked the runs whose ends will be settled, and of each its job
 * @param busy the jobs of which others held a live run locked; it may be ending this moment, without a look at who waits
 * @since 0.1.0
 */
public record Awaited(Map<Long, Long> marked, Set<Long> busy) {
    /** Nobody waits. */
    public static final Awaited NONE = new Awaited(Map.of(), Set.of());

    /**
     * {@return whether the end of one of so many runs of a job may not be settled: it is under way, or was committed since they were
     * counted}
     *
     * @param row the job, with its live runs as they were counted under its lock
     * @param added how many were added since
     */
    public boolean misses(JobRow row, int added) {
        return busy.contains(row.id()) || Collections.frequency(marked.values(), row.id()) < row.live() + added;
    }
}
