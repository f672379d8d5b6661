package dev.brume.history;

import dev.brume.JobName;
import dev.brume.Outcome;
import java.util.Optional;
import java.util.function.Predicate;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * Which jobs to show.
 *
 * @param name only those of this name, in which {@code *} stands for any letters
 * @param namespace only those of this namespace
 * @param tag only those that carry it
 * @param failing only those whose last run neither succeeded nor was skipped
 * @param paused only those that are paused
 * @param followedBy only those that this one follows
 * @param after only those that come after this one in the order of names with the namespace, {@code main/} too
 * @param limit how many at most
 * @since 0.1.0
 */
public record JobFilter(
        Optional<String> name,
        Optional<String> namespace,
        Optional<String> tag,
        boolean failing,
        boolean paused,
        Optional<JobName> followedBy,
        Optional<JobName> after,
        int limit) {
    private static final JobFilter ALL = new JobFilter(
            Optional.empty(),
            Optional.empty(),
            Optional.empty(),
            /* failing= */ false,
            /* paused= */ false,
            Optional.empty(),
            Optional.empty(),
            Integer.MAX_VALUE);

    /** {@return a filter that lets the jobs through that one follows} */
    public static JobFilter followedBy(JobName job) {
        return new JobFilter(
                ALL.name, ALL.namespace, ALL.tag, ALL.failing, ALL.paused, Optional.of(job), ALL.after, ALL.limit);
    }

    /** {@return a copy that begins after a job} */
    public JobFilter after(JobName job) {
        return new JobFilter(name, namespace, tag, failing, paused, followedBy, Optional.of(job), limit);
    }

    /** {@return a test for a job alone, whatever its place in the order} */
    public Predicate<JobView> test() {
        Pattern pattern = Pattern.compile(
                Stream.of(name.orElse("*").split("\\*", -1)).map(Pattern::quote).collect(Collectors.joining(".*")));
        return view -> pattern.matcher(view.name().name()).matches()
                && namespace
                        .filter(each -> !view.name().namespace().equals(each))
                        .isEmpty()
                && tag.filter(each -> !view.job().tags().contains(each)).isEmpty()
                && (!failing || isFailing(view))
                && (!paused || view.row().paused())
                && followedBy.filter(each -> !leadsTo(view, each)).isEmpty();
    }

    private static boolean isFailing(JobView view) {
        return view.lastEnd()
                .filter(end -> end.outcome() != Outcome.SUCCEEDED && end.outcome() != Outcome.SKIPPED)
                .isPresent();
    }

    private static boolean leadsTo(JobView view, JobName follower) {
        return view.job().followUps().stream()
                .anyMatch(followUp -> followUp.job().equals(follower));
    }
}
