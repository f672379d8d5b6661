package dev.brume.spi;

import dev.brume.history.AfterEnd;
import dev.brume.history.JobRow;
import dev.brume.history.NewestRuns;
import java.time.Instant;
import java.util.Optional;

/**
 * A change of a job's row. All values are absolute: the row is locked.
 *
 * @param id the job
 * @param cursor the new cursor
 * @param nextAt the next occurrence
 * @param runs its newest runs
 * @param afterEnd where its schedule stands that goes by the ends of runs, if that changes
 * @since 0.1.0
 */
public record JobAdvance(
        long id, Instant cursor, Optional<Instant> nextAt, NewestRuns runs, Optional<AfterEnd> afterEnd) {

    /** {@return the change that writes a row's next occurrence and newest runs, and leaves its schedule as it is} */
    public static JobAdvance of(JobRow row) {
        return new JobAdvance(row.id(), row.cursor(), row.nextAt(), row.runs(), Optional.empty());
    }

    /** {@return the same change with other newest runs} */
    public JobAdvance with(NewestRuns newest) {
        return new JobAdvance(id, cursor, nextAt, newest, afterEnd);
    }

    /** {@return a row as this change leaves it} */
    public JobRow applyTo(JobRow row) {
        return new JobRow(
                row.id(),
                row.name(),
                row.version(),
                row.source(),
                cursor,
                row.pause().due(nextAt),
                row.used(),
                row.cap(),
                row.waiting(),
                runs,
                afterEnd.isPresent() ? afterEnd : row.afterEnd(),
                row.dropped(),
                row.pause());
    }
}
