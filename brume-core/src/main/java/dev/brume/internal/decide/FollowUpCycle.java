package dev.brume.internal.decide;

import dev.brume.JobName;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Deque;
import java.util.HashSet;
import java.util.Iterator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/** Jobs that follow each other in a ring, so that a run of one would never be the last. Stateless. */
public final class FollowUpCycle {
    private FollowUpCycle() {}

    private record Step(JobName job, Iterator<JobName> next) {}

    /**
     * Looks for a ring that can be reached from some jobs.
     *
     * @param edges which jobs follow a job's runs
     * @return the first one found, in words such as {@code a -> b -> a}
     */
    public static Optional<String> find(Collection<JobName> from, Map<JobName, List<JobName>> edges) {
        Set<JobName> done = new HashSet<>();
        for (JobName start : from) {
            Optional<String> ring = search(start, edges, done);
            if (ring.isPresent()) {
                return ring;
            }
        }
        return Optional.empty();
    }

    /** Depth first, without recursion: a chain may be long. */
    private static Optional<String> search(JobName start, Map<JobName, List<JobName>> edges, Set<JobName> done) {
        Deque<Step> path = new ArrayDeque<>();
        Set<JobName> open = new HashSet<>();
        enter(start, edges, path, open);
        while (!path.isEmpty()) {
            Step step = path.getLast();
            if (!step.next().hasNext()) {
                open.remove(step.job());
                done.add(path.removeLast().job());
                continue;
            }
            JobName next = step.next().next();
            if (open.contains(next)) {
                return Optional.of(words(path, next));
            }
            if (!done.contains(next)) {
                enter(next, edges, path, open);
            }
        }
        return Optional.empty();
    }

    private static void enter(JobName job, Map<JobName, List<JobName>> edges, Deque<Step> path, Set<JobName> open) {
        path.addLast(new Step(job, edges.getOrDefault(job, List.of()).iterator()));
        open.add(job);
    }

    private static String words(Deque<Step> path, JobName again) {
        List<JobName> ring = new ArrayList<>(path.stream()
                .map(Step::job)
                .dropWhile(job -> !job.equals(again))
                .toList());
        ring.add(again);
        return ring.stream().map(JobName::toString).collect(Collectors.joining(" -> "));
    }
}
