package dev.brume.simulator;

import java.time.Duration;
import java.util.Arrays;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;

/**
 * All that a simulation follows from; the same scenario always gives the same one.
 *
 * @param seed of everything that chance decides
 * @param instances how many
 * @param jobs how many at most
 * @param length how long, in virtual time
 * @param faults how often things go wrong
 * @param only the numbers of the faults that are to happen; empty for all that chance brings up
 */
public record Scenario(
        long seed, int instances, int jobs, Duration length, Faults faults, Optional<Set<Integer>> only) {
    private static final int JOBS = 10;

    /** {@return the scenario of a seed} */
    public static Scenario of(long seed, int instances, Duration length, Faults faults) {
        return new Scenario(seed, instances, JOBS, length, faults, Optional.empty());
    }

    /**
     * {@return the scenario that a failure named}
     *
     * @param text as {@link #replay} wrote it
     * @param faults how often things went wrong
     * @throws IllegalArgumentException if it is not such a text
     */
    public static Scenario parse(String text, Faults faults) {
        String[] parts = text.split(":", -1);
        if (parts.length != 5) {
            throw new IllegalArgumentException("'" + text + "' is not SEED:INSTANCES:JOBS:SECONDS:FAULTS");
        }
        Optional<Set<Integer>> only = parts[4].equals("all")
                ? Optional.empty()
                : Optional.of(Arrays.stream(parts[4].split("[.]"))
                        .filter(part -> !part.isEmpty())
                        .map(Integer::valueOf)
                        .collect(Collectors.toCollection(TreeSet::new)));
        return new Scenario(
                Long.parseLong(parts[0]),
                Integer.parseInt(parts[1]),
                Integer.parseInt(parts[2]),
                Duration.ofSeconds(Long.parseLong(parts[3])),
                faults,
                only);
    }

    /** {@return the scenario as one word, from which it can be replayed} */
    public String replay() {
        String numbers = only.map(
                        set -> new TreeSet<>(set).stream().map(String::valueOf).collect(Collectors.joining(".")))
                .orElse("all");
        return seed + ":" + instances + ":" + jobs + ":" + length.toSeconds() + ":" + numbers;
    }

    Scenario withInstances(int count) {
        return new Scenario(seed, count, jobs, length, faults, only);
    }

    Scenario withJobs(int count) {
        return new Scenario(seed, instances, count, length, faults, only);
    }

    Scenario withLength(Duration shorter) {
        return new Scenario(seed, instances, jobs, shorter, faults, only);
    }

    Scenario withOnly(Set<Integer> numbers) {
        return new Scenario(seed, instances, jobs, length, faults, Optional.of(Set.copyOf(numbers)));
    }
}
