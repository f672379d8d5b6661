package dev.brume.cli;

import dev.brume.DefinitionSet;
import dev.brume.Job;
import dev.brume.JobKey;
import dev.brume.definitions.DefinitionFile;
import dev.brume.port.History;
import dev.brume.port.JobView;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;

/** Which file defines a job: two that do undo each other's work, and the one that comes later wins without a word. */
final class Sources {
    private static final int MOST_NAMED = 3;

    private Sources() {}

    /**
     * Refuses files that define the same job.
     *
     * @throws UsageException if two do
     */
    static void checkApart(List<DefinitionFile> files) {
        Map<JobKey, DefinitionFile> known = new HashMap<>();
        for (DefinitionFile file : files) {
            for (Job job : file.jobs()) {
                DefinitionFile other = known.putIfAbsent(job.key(), file);
                if (other != null) {
                    throw new UsageException(job.key() + " is defined by " + other.source() + ":"
                            + other.lines().getOrDefault(job.key(), 1) + " and by " + file.source() + ":"
                            + file.lines().getOrDefault(job.key(), 1) + "; a job has one definition");
                }
            }
        }
    }

    /**
     * Refuses to take jobs from another file or program that defines them so far.
     *
     * @throws UsageException if the set would
     */
    static void checkOwn(History history, DefinitionSet set) {
        Map<JobKey, Job> wanted = set.jobs().stream().collect(Collectors.toMap(Job::key, job -> job, (a, b) -> a));
        List<JobView> others = history.jobs().stream()
                .filter(view -> wanted.containsKey(view.key()))
                .filter(view -> !view.row().source().equals(set.source()))
                .toList();
        if (others.isEmpty()) {
            return;
        }
        String some = others.stream()
                .limit(MOST_NAMED)
                .map(view -> view.key() + " (by " + view.row().source() + ")")
                .collect(Collectors.joining(", "));
        throw new UsageException(some
                + (others.size() > MOST_NAMED ? " and " + (others.size() - MOST_NAMED) + " more" : "")
                + (others.size() == 1 ? " is" : " are") + " defined elsewhere so far; say --take-over to have "
                + set.source()
                + " define " + (others.size() == 1 ? "it" : "them") + " from now on");
    }
}
