package dev.brume.insight.rehearsal;

import java.util.Map;
import java.util.Set;

/**
 * The instances of a rehearsal, all of one kind.
 *
 * @param instances how many, at least 1
 * @param lanes that each serves, with its workers
 * @param labels that each carries
 * @since 0.1.0
 */
public record Crew(int instances, Map<String, Integer> lanes, Set<String> labels) {
    /** Creates a crew. */
    public Crew {
        if (instances < 1) {
            throw new IllegalArgumentException("instances: " + instances + " is below 1");
        }
        if (lanes.isEmpty()) {
            throw new IllegalArgumentException("lanes: none is served");
        }
        lanes = Map.copyOf(lanes);
        labels = Set.copyOf(labels);
    }

    /** {@return how many workers there are in all} */
    public int workers() {
        return instances * lanes.values().stream().mapToInt(Integer::intValue).sum();
    }
}
