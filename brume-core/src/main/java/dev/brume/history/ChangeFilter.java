package dev.brume.history;

import dev.brume.JobName;
import java.time.Instant;
import java.util.Optional;

/**
 * Which lines of the change log to show.
 *
 * @param job only those about this job, pauses of all jobs and of its tags included
 * @param kind only those of this kind
 * @param who only those of this user or instance
 * @param from only those at or after
 * @param until only those before
 * @param before only those with a lower id, to go on where another page ended
 * @param limit how many at most
 * @since 0.1.0
 */
public record ChangeFilter(
        Optional<JobName> job,
        Optional<String> kind,
        Optional<String> who,
        Optional<Instant> from,
        Optional<Instant> until,
        Optional<Long> before,
        int limit) {

    /** {@return a filter that lets everything through, up to a limit} */
    public static ChangeFilter newest(int limit) {
        return new ChangeFilter(
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                limit);
    }

    /** {@return a copy for one job} */
    public ChangeFilter of(JobName key) {
        return new ChangeFilter(Optional.of(key), kind, who, from, until, before, limit);
    }
}
