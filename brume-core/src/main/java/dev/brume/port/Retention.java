package dev.brume.port;

import dev.brume.Keep;
import java.time.Instant;
import java.util.List;

/**
 * What the ledger keeps.
 *
 * @param total its bounds as a whole, which no job's own exceed
 * @param from before it, lines of any job may have been removed
 * @param jobs those with bounds of their own, by id
 */
public record Retention(Keep total, Instant from, List<Kept> jobs) {}
