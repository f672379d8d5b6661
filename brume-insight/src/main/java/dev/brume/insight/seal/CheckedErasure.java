package dev.brume.insight.seal;

import dev.brume.history.Erasure;
import java.util.Optional;

/**
 * An erasure of a run's content, and whether the change log says the same.
 *
 * @param erasure what the record says of it
 * @param doubt why it is not believed; empty if it is
 * @since 0.1.0
 */
public record CheckedErasure(Erasure erasure, Optional<String> doubt) {}
