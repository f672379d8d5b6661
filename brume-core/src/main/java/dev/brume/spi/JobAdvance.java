package dev.brume.spi;

import dev.brume.history.AfterEnd;
import dev.brume.history.JobRow;
import dev.brume.history.LastEnd;
import java.time.Instant;
import java.util.Optional;

/**
 * A change of a job's row. All values are absolute: the row is locked.
 *
 * @param id the job
 * @param cursor the new cursor
 * @param nextAt the next occurrence
 * @param used the places taken
 * @param waiting the runs that wait
 * @param lastEnd the run that ended last, if that changes; one that ended before the one on record changes nothing
 * @param afterEnd where its schedule stands that goes by the ends of runs, if that changes
 * @since 0.1.0
 */
public record JobAdvance(
        long id,
        Instant cursor,
        Optional<Instant> nextAt,
        int used,
        int waiting,
        Optional<LastEnd> lastEnd,
        Optional<AfterEnd> afterEnd) {

    /** {@return the change that writes a row's counts and leaves the rest as it is} */
    public static JobAdvance of(JobRow row) {
        return new JobAdvance(
                row.id(), row.cursor(), row.nextAt(), row.used(), row.waiting(), Optional.empty(), Optional.empty());
    }

    /** {@return a row as this change leaves it} */
    public JobRow applyTo(JobRow row) {
        return new JobRow(
                row.id(),
                row.name(),
                row.version(),
                row.source(),
                cursor,
                row.paused() ? Optional.empty() : nextAt,
                used,
                row.cap(),
                waiting,
                afterEnd.isPresent() ? afterEnd : row.afterEnd(),
                row.dropped(),
                row.paused());
    }
}
