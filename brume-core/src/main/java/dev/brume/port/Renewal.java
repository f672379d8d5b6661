package dev.brume.port;

import java.time.Instant;

/**
 * A session that was renewed.
 *
 * @param at the database's clock
 * @param state where it stands: someone may have asked it to drain
 */
public record Renewal(Instant at, SessionRow.State state) {}
