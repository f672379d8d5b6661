package dev.brume.simulator;

import java.util.Optional;
import java.util.Set;
import java.util.SplittableRandom;

/**
 * Decides which faults happen. Each one that chance brings up has a number, so that a run can be repeated with some of them
 * left out. Confined to one thread.
 */
final class FaultPlan {
    private final Optional<Set<Integer>> only;
    private int count;

    /**
     * Creates a plan.
     *
     * @param only the numbers of those that are to happen; empty for all
     */
    FaultPlan(Optional<Set<Integer>> only) {
        this.only = only;
    }

    boolean happens(SplittableRandom random, double share) {
        if (random.nextDouble() >= share) {
            return false;
        }
        int number = count++;
        return only.isEmpty() || only.get().contains(number);
    }

    /** {@return how many chance has brought up} */
    int count() {
        return count;
    }
}
