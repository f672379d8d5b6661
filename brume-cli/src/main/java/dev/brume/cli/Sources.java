package dev.brume.cli;

import dev.brume.DefinitionSet;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.definitions.DefinitionFile;
import dev.brume.history.History;
import dev.brume.insight.diff.DefinitionDiff;
import dev.brume.insight.diff.JobDiff;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
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
        Map<JobName, DefinitionFile> known = new HashMap<>();
        for (DefinitionFile file : files) {
            for (Job job : file.jobs()) {
                DefinitionFile other = known.putIfAbsent(job.name(), file);
                if (other != null) {
                    throw new UsageException(job.name() + " is defined by " + other.source() + ":"
                            + other.lines().getOrDefault(job.name(), 1) + " and by " + file.source() + ":"
                            + file.lines().getOrDefault(job.name(), 1) + "; a job has one definition");
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
        Set<JobName> wanted = set.jobs().stream().map(Job::name).collect(Collectors.toSet());
        Map<JobName, String> others = new LinkedHashMap<>();
        history.jobs().stream()
                .filter(view -> wanted.contains(view.name()))
                .filter(view -> !view.row().source().equals(set.source()))
                .forEach(view -> others.put(view.name(), view.row().source()));
        refuse(others, set);
    }

    /** As {@link #checkOwn(History, DefinitionSet)}, where the two have been compared. */
    static void checkOwn(DefinitionDiff diff, DefinitionSet set) {
        Map<JobName, String> others = new LinkedHashMap<>();
        diff.of(JobDiff.Kind.CHANGED)
                .forEach(job -> job.movesFrom().ifPresent(source -> others.put(job.name(), source)));
        refuse(others, set);
    }

    private static void refuse(Map<JobName, String> others, DefinitionSet set) {
        if (others.isEmpty()) {
            return;
        }
        String some = others.entrySet().stream()
                .limit(MOST_NAMED)
                .map(each -> each.getKey() + " (by " + each.getValue() + ")")
                .collect(Collectors.joining(", "));
        throw new UsageException(some
                + (others.size() > MOST_NAMED ? " and " + (others.size() - MOST_NAMED) + " more" : "")
                + (others.size() == 1 ? " is" : " are") + " defined elsewhere so far; say --take-over to have "
                + set.source() + " define " + (others.size() == 1 ? "it" : "them") + " from now on");
    }
}
