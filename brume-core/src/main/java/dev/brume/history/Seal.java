package dev.brume.history;

import dev.brume.internal.text.Digests;
import java.time.Instant;
import java.util.Map;

/**
 * A seal over some of what is on record, and over the seal before it.
 *
 * @param number from 1, without a gap
 * @param sealedAt the database's clock
 * @param sealedBy who had it made
 * @param covered the rows that it covers
 * @param digest SHA-256 over all that, and the digest before, in hexadecimal
 * @since 0.1.0
 */
public record Seal(long number, Instant sealedAt, String sealedBy, Map<SealedKind, Members> covered, String digest) {

    /** Creates a seal of a copy of the map. */
    public Seal {
        covered = Map.copyOf(covered);
    }

    /** {@return a seal after one of a digest} */
    public static Seal of(
            long number, String before, Instant sealedAt, String sealedBy, Map<SealedKind, Members> covered) {
        Seal open = new Seal(number, sealedAt, sealedBy, covered, "");
        return new Seal(number, sealedAt, sealedBy, covered, open.digestAfter(before));
    }

    /** {@return the rows of a kind that it covers} */
    public Members members(SealedKind kind) {
        return covered.getOrDefault(kind, Members.NONE);
    }

    /** {@return the digest that it must have after another one} */
    public String digestAfter(String before) {
        StringBuilder text = new StringBuilder("brume-seal 2\n")
                .append(before)
                .append('\n')
                .append(number)
                .append('\n')
                .append(sealedAt)
                .append('\n')
                .append(sealedBy)
                .append('\n');
        for (SealedKind kind : SealedKind.values()) {
            Members members = members(kind);
            text.append(kind)
                    .append('\n')
                    .append(members.numbers())
                    .append('\n')
                    .append(members.marks())
                    .append('\n');
        }
        return Digests.sha256(text.toString());
    }
}
