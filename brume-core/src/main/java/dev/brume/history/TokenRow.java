package dev.brume.history;

import dev.brume.Grant;
import java.time.Instant;
import java.util.Optional;

/**
 * A token that lets whoever shows it in; its secret is not on record, only a digest of it.
 *
 * @param name what it is called, and who it is in the change log
 * @param grant what it lets do, and where
 * @param addedAt when it was made
 * @param addedBy by whom
 * @param until when it ends by itself; empty if it does not
 * @param revokedAt when it was revoked; empty if it was not
 * @since 0.1.0
 */
public record TokenRow(
        String name,
        Grant grant,
        Instant addedAt,
        String addedBy,
        Optional<Instant> until,
        Optional<Instant> revokedAt) {

    /** {@return whether it lets somebody in at an instant} */
    public boolean isGood(Instant at) {
        return revokedAt.isEmpty() && until.filter(end -> !at.isBefore(end)).isEmpty();
    }
}
