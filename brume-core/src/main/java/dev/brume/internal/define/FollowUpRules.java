package dev.brume.internal.define;

import dev.brume.DefinitionSet;
import dev.brume.FollowUp;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.internal.decide.FollowUpCycle;
import dev.brume.spi.Transaction;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;

/** The conditions on follow-ups: each names a defined job, and none leads back to its own job. */
final class FollowUpRules {
    private FollowUpRules() {}

    /**
     * Checks a set against itself and what is in force.
     *
     * @throws IllegalArgumentException naming the job and what is wrong
     */
    static void check(Transaction tx, DefinitionSet set) {
        List<Job> followed =
                set.jobs().stream().filter(job -> !job.followUps().isEmpty()).toList();
        if (followed.isEmpty()) {
            return;
        }
        Map<JobName, List<JobName>> edges = new HashMap<>();
        set.jobs()
                .forEach(job -> edges.put(
                        job.name(), job.followUps().stream().map(FollowUp::job).toList()));
        Set<JobName> targets = followed.stream()
                .flatMap(job -> job.followUps().stream())
                .map(FollowUp::job)
                .filter(target -> !edges.containsKey(target))
                .collect(Collectors.toSet());
        Set<JobName> known = tx.findJobs(targets).keySet();
        for (Job job : followed) {
            job.followUps().stream()
                    .map(FollowUp::job)
                    .filter(target -> !edges.containsKey(target) && !known.contains(target))
                    .findFirst()
                    .ifPresent(target -> {
                        throw new IllegalArgumentException("job " + job.name() + ": followUps: there is no job '"
                                + target + "' (define it along with this one, or before)");
                    });
        }
        addReachable(tx, targets, edges);
        FollowUpCycle.find(followed.stream().map(Job::name).toList(), edges).ifPresent(ring -> {
            throw new IllegalArgumentException("followUps: " + ring + " would never end");
        });
    }

    private static void addReachable(Transaction tx, Set<JobName> from, Map<JobName, List<JobName>> edges) {
        Set<JobName> frontier = new HashSet<>(from);
        while (!frontier.isEmpty()) {
            Map<JobName, List<JobName>> found = tx.followUps(frontier);
            frontier.forEach(job -> edges.put(job, found.getOrDefault(job, List.of())));
            frontier = found.values().stream()
                    .flatMap(List::stream)
                    .filter(target -> !edges.containsKey(target))
                    .collect(Collectors.toSet());
        }
    }
}
