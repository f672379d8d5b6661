package dev.brume.port;

import dev.brume.Outcome;
import java.time.Instant;
import java.util.Optional;

/**
 * What changes on a job's row. All values are absolute: the row is locked.
 *
 * @param id the job
 * @param cursor the new cursor
 * @param nextAt the next occurrence
 * @param used the places taken
 * @param waiting the runs held
 * @param lastEnd the run that ended last, if that changes; one that ended before the one on record changes nothing
 * @param afterEnd where its schedule stands that goes by the ends of runs, if that changes
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

    /**
     * The run that ended last.
     *
     * @param run its id
     * @param outcome how
     * @param at when
     */
    public record LastEnd(long run, Outcome outcome, Instant at) {}
}
