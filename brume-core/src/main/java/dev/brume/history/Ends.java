package dev.brume.history;

import dev.brume.Outcome;
import java.time.Duration;
import java.util.Map;
import java.util.Optional;

/**
 * How a job's runs of a period ended, all together.
 *
 * @param outcomes how many each
 * @param took how long last attempts took on average; empty if there were none
 * @since 0.1.0
 */
public record Ends(Map<Outcome, Long> outcomes, Optional<Duration> took) {
    /** No runs. */
    public static final Ends NONE = new Ends(Map.of(), Optional.empty());
}
