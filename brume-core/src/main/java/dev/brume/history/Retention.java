package dev.brume.history;

import dev.brume.Keep;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;

/**
 * How much the ledger keeps.
 *
 * @param total its bounds as a whole, which no job's own exceed
 * @param floor no job's own bounds remove what is younger; empty if they may remove anything
 * @param from before it, lines of any job may have been removed
 * @param appliedAt when the ledger was last looked through for what is beyond its bounds
 * @param jobs those with bounds of their own, by id
 * @since 0.1.0
 */
public record Retention(
        Keep total, Optional<Duration> floor, Instant from, Optional<Instant> appliedAt, List<Kept> jobs) {}
