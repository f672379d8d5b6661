package dev.brume.simulator;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.TreeSet;

/**
 * Runs scenarios, and makes one that breaks a promise as small as it can: fewer instances, fewer jobs, a shorter time, and
 * only the faults that are needed. Confined to one thread.
 */
public final class Shrinker {
    private static final int MOST_RUNS = 300;

    private final Sabotage sabotage;
    private int runs;

    /** Creates a shrinker. */
    public Shrinker(Sabotage sabotage) {
        this.sabotage = sabotage;
    }

    /**
     * Simulates.
     *
     * @throws AssertionError if a promise is broken; it names the smallest scenario found that breaks the same one, as it
     *     can be replayed, and what was said last in it
     */
    public Simulator.Result run(Scenario scenario) {
        try {
            return new Simulator(scenario, sabotage).run();
        } catch (Simulator.Broken broken) {
            throw explain(scenario, broken);
        }
    }

    private AssertionError explain(Scenario scenario, Simulator.Broken broken) {
        Scenario smallest = shrink(scenario, broken);
        Simulator.Broken last = breaks(smallest, broken.what()).orElse(broken);
        return new AssertionError(
                last.getMessage() + "\n  scenario " + scenario.replay() + ", "
                        + broken.after().toSeconds() + " s and "
                        + broken.faults() + " faults in"
                        + "\n  shrunk to " + smallest.replay() + ", "
                        + smallest.only().map(only -> only.size()).orElse(last.faults()) + " faults (replay:"
                        + " -Dbrume.simulator.replay=" + smallest.replay() + ")\n  " + last.said(),
                broken);
    }

    private Optional<Simulator.Broken> breaks(Scenario scenario, String what) {
        runs++;
        try {
            new Simulator(scenario, sabotage).run();
            return Optional.empty();
        } catch (Simulator.Broken broken) {
            return Optional.of(broken).filter(same -> same.what().equals(what));
        }
    }

    private Scenario shrink(Scenario scenario, Simulator.Broken broken) {
        String what = broken.what();
        Scenario smallest = sooner(scenario, broken);
        for (int instances = 1; instances < smallest.instances(); instances++) {
            smallest = orElse(smallest.withInstances(instances), smallest, what);
        }
        for (int jobs = 1; jobs < smallest.jobs(); jobs++) {
            smallest = orElse(smallest.withJobs(jobs), smallest, what);
        }
        int faults = breaks(smallest, what).map(Simulator.Broken::faults).orElse(broken.faults());
        List<Integer> needed = new ArrayList<>();
        for (int i = 0; i < faults; i++) {
            needed.add(i);
        }
        return fewerFaults(smallest.withOnly(new TreeSet<>(needed)), needed, what);
    }

    private Scenario orElse(Scenario smaller, Scenario known, String what) {
        Optional<Simulator.Broken> broken = runs < MOST_RUNS ? breaks(smaller, what) : Optional.empty();
        return broken.map(found -> sooner(smaller, found)).orElse(known);
    }

    private static Scenario sooner(Scenario scenario, Simulator.Broken broken) {
        Duration enough = broken.after().plusSeconds(1);
        return enough.compareTo(scenario.length()) < 0 ? scenario.withLength(enough) : scenario;
    }

    /** Leaves out larger parts first, then smaller ones, until none can be left out or patience is over. */
    private Scenario fewerFaults(Scenario scenario, List<Integer> needed, String what) {
        Scenario smallest = scenario;
        List<Integer> left = needed;
        int part = Math.max(1, left.size() / 2);
        while (!left.isEmpty() && runs < MOST_RUNS) {
            boolean found = false;
            for (int from = 0; from < left.size() && runs < MOST_RUNS; from += part) {
                List<Integer> without = new ArrayList<>(left);
                without.subList(from, Math.min(left.size(), from + part)).clear();
                Scenario smaller = smallest.withOnly(new TreeSet<>(without));
                if (breaks(smaller, what).isPresent()) {
                    smallest = smaller;
                    left = without;
                    found = true;
                    from -= part;
                }
            }
            if (!found && part == 1) {
                break;
            }
            part = Math.max(1, part / 2);
        }
        return smallest;
    }
}
