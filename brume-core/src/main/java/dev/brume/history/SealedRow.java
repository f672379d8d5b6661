package dev.brume.history;

import dev.brume.JobName;
import java.time.Instant;
import java.util.Optional;

/**
 * A row as seals see it.
 *
 * @param number tells rows of a kind apart
 * @param what it is called
 * @param job it is of; empty if it is of none
 * @param at what retention goes by: the planned instant of a run, the last occurrence of a span; otherwise when it was written
 * @param form its canonical form
 * @since 0.1.0
 */
public record SealedRow(long number, String what, Optional<JobName> job, Instant at, String form) {

    /** {@return its mark} */
    public String mark() {
        return Mark.of(form, at);
    }
}
