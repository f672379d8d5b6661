package dev.brume.history;

import dev.brume.Job;
import dev.brume.JobName;
import java.time.Instant;
import java.util.Optional;

/**
 * A job to be looked at.
 *
 * @param row as it stands
 * @param job the definition in force
 * @param definedAt when that came into force
 * @param lastEnd the end of its newest run that has ended, as long as the ledger keeps it
 * @since 0.1.0
 */
public record JobView(JobRow row, Job job, Instant definedAt, Optional<LastEnd> lastEnd) {

    /** {@return its name} */
    public JobName name() {
        return row.name();
    }
}
