package dev.brume.history;

import java.util.EnumMap;
import java.util.Map;

/**
 * The newest seal, and how far sealing has come.
 *
 * @param number of the newest seal, 0 if there is none
 * @param digest of it; {@link #NOTHING} if there is none
 * @param reaches how far it has come among the rows of each kind
 * @since 0.1.0
 */
public record SealHead(long number, String digest, Map<SealedKind, Reach> reaches) {
    /** The digest before the first seal. */
    public static final String NOTHING = "0".repeat(64);

    /** Nothing sealed. */
    public static final SealHead NONE = new SealHead(0, NOTHING, Map.of());

    /** Creates a head of a copy of the map. */
    public SealHead {
        reaches = Map.copyOf(reaches);
    }

    /** {@return how far sealing has come among the rows of a kind} */
    public Reach reach(SealedKind kind) {
        return reaches.getOrDefault(kind, Reach.NONE);
    }

    /** {@return where sealing stands after one more seal} */
    public SealHead past(Seal seal) {
        Map<SealedKind, Reach> next = new EnumMap<>(SealedKind.class);
        for (SealedKind kind : SealedKind.values()) {
            next.put(kind, reach(kind).past(seal.members(kind).numbers()));
        }
        return new SealHead(seal.number(), seal.digest(), next);
    }
}
