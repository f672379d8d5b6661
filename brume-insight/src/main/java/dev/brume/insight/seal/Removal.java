package dev.brume.insight.seal;

import dev.brume.history.ChangeView;
import java.util.Optional;

/**
 * A line of the change log that says that retention removed something.
 *
 * @param line the line
 * @param doubt why it is not believed; empty if it is
 * @since 0.1.0
 */
public record Removal(ChangeView line, Optional<String> doubt) {}
