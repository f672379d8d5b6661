package dev.brume.insight.diff;

import dev.brume.Job;
import dev.brume.JobName;
import java.util.List;
import java.util.Optional;

/**
 * The difference for one job.
 *
 * @param name the job
 * @param kind what becomes of it
 * @param version that is in force, 0 if the job is new
 * @param movesFrom the source that had defined it, if that is another
 * @param lines what is different, key by key: {@code - before}, {@code + after}
 * @param job the new definition; of a job that goes, the old
 * @param shift how its coming occurrences move; empty of those that stay as they are
 * @since 0.1.0
 */
public record JobDiff(
        JobName name,
        Kind kind,
        int version,
        Optional<String> movesFrom,
        List<String> lines,
        Job job,
        Optional<Shift> shift) {

    /** The kinds of difference. */
    public enum Kind {
        /** It is not there yet. */
        NEW,
        /** It gets another version. */
        CHANGED,
        /** It is there, was defined by the same source, and is no longer in it. */
        GONE,
        /** Nothing. */
        UNCHANGED
    }
}
