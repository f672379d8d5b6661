package dev.brume.spi;

import dev.brume.JobName;
import dev.brume.history.FeedEvent;
import java.util.Map;
import java.util.Optional;

/**
 * What the feed keeps of a change within its transaction.
 *
 * @param kind of change
 * @param jobId the job it concerns
 * @param job the same by its name, where only that is known
 * @param run it concerns
 * @param facts the rest
 * @since 0.1.0
 */
public record FeedNote(
        FeedEvent.Kind kind,
        Optional<Long> jobId,
        Optional<JobName> job,
        Optional<Long> run,
        Map<String, String> facts) {}
