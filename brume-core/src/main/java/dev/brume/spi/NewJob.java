package dev.brume.spi;

import dev.brume.Job;
import dev.brume.history.AfterEnd;
import java.time.Instant;
import java.util.Optional;

/**
 * A job to add.
 *
 * @param job the definition, as it is pinned
 * @param pins what it pins
 * @param source where it came from
 * @param at when it begins to owe
 * @param nextAt its first occurrence
 * @param afterEnd where its schedule stands that goes by the ends of runs, if it has one
 * @since 0.1.0
 */
public record NewJob(
        Job job, Pins pins, String source, Instant at, Optional<Instant> nextAt, Optional<AfterEnd> afterEnd) {

    /** A job that pins nothing. */
    public static NewJob plain(Job job, String source, Instant at, Optional<Instant> nextAt) {
        return new NewJob(job, Pins.NONE, source, at, nextAt, Optional.empty());
    }
}
