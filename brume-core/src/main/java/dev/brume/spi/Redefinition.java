package dev.brume.spi;

import dev.brume.Job;
import dev.brume.history.AfterEnd;
import dev.brume.history.JobRow;
import java.time.Instant;
import java.util.Optional;

/**
 * A definition to put in place of another.
 *
 * @param id the job
 * @param number the new version's number
 * @param job the new definition, as it is pinned
 * @param pins what it pins
 * @param source where it came from
 * @param at from when it holds
 * @param nextAt its first occurrence
 * @param afterEnd where its schedule stands that goes by the ends of runs, if it has one
 * @since 0.1.0
 */
public record Redefinition(
        long id,
        int number,
        Job job,
        Pins pins,
        String source,
        Instant at,
        Optional<Instant> nextAt,
        Optional<AfterEnd> afterEnd) {

    /** {@return a row under this definition; what is taken stays taken} */
    public JobRow applyTo(JobRow row) {
        return new JobRow(
                row.id(),
                row.name(),
                number,
                source,
                at,
                row.pause().due(nextAt),
                row.used(),
                job.ifBusy().places(),
                row.waiting(),
                row.runs(),
                afterEnd,
                row.dropped(),
                row.pause());
    }
}
