package dev.brume.spi;

import java.time.Instant;
import java.util.Optional;
import java.util.UUID;

/**
 * Which waiting runs an instance asks for.
 *
 * @param session to lease them to
 * @param epoch to put into their fences
 * @param lane whose runs
 * @param ability of the instance; runs that need more are left
 * @param hint nothing ready earlier is expected; empty to look from the beginning
 * @param limit how many at most
 * @param oldestFirst whether those that have waited longest come first, whatever their priority
 * @since 0.1.0
 */
public record Claim(
        UUID session,
        long epoch,
        String lane,
        Ability ability,
        Optional<Instant> hint,
        int limit,
        boolean oldestFirst) {

    /** {@return the same claim of the first so many} */
    public Claim first(int count) {
        return new Claim(session, epoch, lane, ability, hint, count, /* oldestFirst= */ false);
    }

    /** {@return the same claim of so many that have waited longest} */
    public Claim longestWaiting(int count) {
        return new Claim(session, epoch, lane, ability, hint, count, /* oldestFirst= */ true);
    }
}
