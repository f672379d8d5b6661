package dev.brume.spi;

import dev.brume.history.SessionRow;
import java.time.Instant;

/**
 * A session that was renewed.
 *
 * @param at the database's clock
 * @param state where it stands: someone may have asked it to drain
 * @since 0.1.0
 */
public record Renewal(Instant at, SessionRow.State state) {}
