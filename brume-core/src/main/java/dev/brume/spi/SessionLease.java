package dev.brume.spi;

import java.time.Instant;
import java.util.UUID;

/**
 * A session as its instance remembers it.
 *
 * @param session its id
 * @param epoch in which it was opened; it ends with it
 * @param renewedAt when it was renewed last; the database never has less
 * @param timeline the history of itself that the server was in then
 * @since 0.1.0
 */
public record SessionLease(UUID session, long epoch, Instant renewedAt, String timeline) {}
