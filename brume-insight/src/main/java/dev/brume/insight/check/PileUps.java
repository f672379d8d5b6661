package dev.brume.insight.check;

import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.schedule.Durations;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.Schedule;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.IdentityHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * Finds seconds on which many jobs are due together, and could be spread. What runs more than once a minute is left
 * out: it meets everything, and no spread fits between its occurrences.
 *
 * @since 0.1.0
 */
public final class PileUps {
    /** So many jobs on one second are worth a word. */
    public static final int MANY = 5;

    private static final Duration AHEAD = Duration.ofDays(7);
    private static final int MOST_OF_ONE_JOB = 500;
    private static final Duration A_MINUTE = Duration.ofMinutes(1);
    private static final Duration WIDE_ENOUGH = Duration.ofMinutes(10);

    private PileUps() {}

    /**
     * A second on which many jobs are due, the first of its kind.
     *
     * @param at when
     * @param jobs which, in the order given
     * @param times on how many seconds of the period these same jobs meet
     * @param spread a width that fits all of them
     */
    public record PileUp(Instant at, List<JobName> jobs, int times, Duration spread) {

        /** {@return it in words, with the way out} */
        public String sentence() {
            String names = jobs.stream().limit(MANY).map(JobName::toString).collect(Collectors.joining(", "));
            String more = jobs.size() > MANY ? " and " + (jobs.size() - MANY) + " more" : "";
            String often = times == 1 ? "" : " and on " + (times - 1) + " more occasions within a week";
            return jobs.size() + " jobs are due on the same second, " + at + often + ": " + names + more
                    + "; add spread: " + Durations.format(spread) + " to those that need not be punctual";
        }
    }

    /** {@return the pile-ups of the coming week, the most frequent first} */
    public static List<PileUp> of(Collection<Job> jobs, Instant now) {
        Map<Instant, List<JobName>> due = new HashMap<>();
        Map<JobName, Duration> shortest = new HashMap<>();
        for (Job job : jobs) {
            Duration interval = shortestInterval(job);
            if (interval.compareTo(A_MINUTE) < 0) {
                continue;
            }
            shortest.put(job.name(), interval);
            Optional<Occurrence> next = job.next(now);
            for (int i = 0;
                    i < MOST_OF_ONE_JOB
                            && next.isPresent()
                            && next.get().instant().isBefore(now.plus(AHEAD));
                    i++) {
                due.computeIfAbsent(next.get().instant(), at -> new ArrayList<>())
                        .add(job.name());
                next = job.next(next.get().instant());
            }
        }
        Map<List<JobName>, List<Instant>> bySet = due.entrySet().stream()
                .filter(entry -> entry.getValue().size() >= MANY)
                .collect(Collectors.groupingBy(
                        Map.Entry::getValue, Collectors.mapping(Map.Entry::getKey, Collectors.toList())));
        return withoutRepeats(bySet, shortest);
    }

    /** The sets that meet most often; another that shares most of its jobs with one of them is the same pile-up. */
    private static List<PileUp> withoutRepeats(
            Map<List<JobName>, List<Instant>> bySet, Map<JobName, Duration> shortest) {
        List<PileUp> all = new ArrayList<>();
        Map<JobName, List<PileUp>> told = new HashMap<>();
        bySet.entrySet().stream()
                .sorted(Comparator.comparingInt((Map.Entry<List<JobName>, List<Instant>> entry) ->
                                -entry.getValue().size())
                        .thenComparing(entry -> -entry.getKey().size())
                        .thenComparing(entry -> entry.getValue().get(0)))
                .forEach(entry -> {
                    Set<JobName> keys = new LinkedHashSet<>(entry.getKey());
                    if (isNews(keys, told)) {
                        Instant first = entry.getValue().stream()
                                .min(Instant::compareTo)
                                .orElseThrow();
                        PileUp pileUp = new PileUp(
                                first, entry.getKey(), entry.getValue().size(), spread(keys, shortest));
                        all.add(pileUp);
                        keys.forEach(key -> told.computeIfAbsent(key, any -> new ArrayList<>())
                                .add(pileUp));
                    }
                });
        return all;
    }

    private static Duration shortestInterval(Job job) {
        return job.schedules().stream()
                .map(Schedule::smallestInterval)
                .min(Comparator.naturalOrder())
                .orElse(A_MINUTE);
    }

    /** Half the shortest interval of all, in whole minutes where it has some; ten minutes at most. */
    private static Duration spread(Set<JobName> keys, Map<JobName, Duration> shortest) {
        Duration half = keys.stream()
                .map(shortest::get)
                .min(Comparator.naturalOrder())
                .orElseThrow()
                .dividedBy(2);
        Duration whole = half.compareTo(A_MINUTE) < 0 ? half : half.truncatedTo(ChronoUnit.MINUTES);
        return whole.compareTo(WIDE_ENOUGH) < 0 ? whole : WIDE_ENOUGH;
    }

    private static boolean isNews(Set<JobName> keys, Map<JobName, List<PileUp>> told) {
        IdentityHashMap<PileUp, Integer> shared = new IdentityHashMap<>();
        return keys.stream()
                .flatMap(key -> told.getOrDefault(key, List.of()).stream())
                .noneMatch(pileUp -> shared.merge(pileUp, 1, Integer::sum) >= MANY);
    }
}
