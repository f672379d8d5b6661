package dev.brume.port;

import java.time.Instant;
import java.util.Collection;
import java.util.Optional;
import java.util.UUID;

/**
 * Which waiting runs an instance asks for.
 *
 * @param session to lease them to
 * @param epoch to put into their fences
 * @param lane whose runs
 * @param handlers that the instance knows; runs that need another are left
 * @param hint nothing ready earlier is expected; empty to look from the beginning
 * @param limit how many at most
 */
public record Claim(
        UUID session, long epoch, String lane, Collection<String> handlers, Optional<Instant> hint, int limit) {}
