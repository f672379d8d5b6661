package dev.brume.definitions.phrase;

import dev.brume.schedule.Fold;
import dev.brume.schedule.Gap;
import java.util.Optional;

/**
 * What becomes of times that clocks skip, and of those that come twice. Immutable.
 *
 * @param gap of those that are skipped; as usual unless it is said
 * @param fold of those that come twice; as usual unless it is said
 * @since 0.1.0
 */
public record Clocks(Optional<Gap> gap, Optional<Fold> fold) {
    /** As usual. */
    public static final Clocks USUAL = new Clocks(Optional.empty(), Optional.empty());
}
