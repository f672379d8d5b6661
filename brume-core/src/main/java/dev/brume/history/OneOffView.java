package dev.brume.history;

import dev.brume.GateKey;
import dev.brume.JobName;
import java.time.Instant;
import java.util.Optional;

/**
 * A one-off to be looked at.
 *
 * @param job its job
 * @param key by which it was ordered
 * @param dueAt when
 * @param payload what its run is given, empty for the job's own
 * @param orderedBy who ordered it
 * @param run the run that it becomes, or became
 * @param made whether that was made; until then it waits
 * @param exclusive the key of which at most one run goes on at once
 * @since 0.1.0
 */
public record OneOffView(
        JobName job,
        String key,
        Instant dueAt,
        Optional<String> payload,
        String orderedBy,
        long run,
        boolean made,
        Optional<GateKey> exclusive) {}
