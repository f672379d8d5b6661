package dev.brume.history;

import dev.brume.JobName;
import dev.brume.Outcome;
import java.util.Arrays;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.function.Predicate;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Which jobs to show.
 *
 * <p>Immutable and safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class JobFilter {
    private final @Nullable String name;
    private final Set<String> namespaces;
    private final @Nullable String tag;
    private final boolean failing;
    private final boolean paused;
    private final @Nullable JobName followedBy;
    private final @Nullable JobName after;
    private final JobOrder order;
    private final int limit;

    private JobFilter(
            @Nullable String name,
            Set<String> namespaces,
            @Nullable String tag,
            boolean failing,
            boolean paused,
            @Nullable JobName followedBy,
            @Nullable JobName after,
            JobOrder order,
            int limit) {
        this.name = name;
        this.namespaces = namespaces;
        this.tag = tag;
        this.failing = failing;
        this.paused = paused;
        this.followedBy = followedBy;
        this.after = after;
        this.order = order;
        this.limit = limit;
    }

    /** {@return a filter that lets everything through, by name with the namespace, up to a limit} */
    public static JobFilter first(int limit) {
        return new JobFilter(null, Set.of(), null, false, false, null, null, JobOrder.NAME, limit);
    }

    /** {@return a copy for jobs of a name, in which {@code *} stands for any letters} */
    public JobFilter named(String pattern) {
        return new JobFilter(pattern, namespaces, tag, failing, paused, followedBy, after, order, limit);
    }

    /** {@return a copy for jobs of a namespace} */
    public JobFilter within(String space) {
        return within(Set.of(space));
    }

    /** {@return a copy for jobs of some namespaces; of all if there is none} */
    public JobFilter within(Collection<String> spaces) {
        return new JobFilter(name, Set.copyOf(spaces), tag, failing, paused, followedBy, after, order, limit);
    }

    /** {@return a copy for jobs that carry a tag} */
    public JobFilter withTag(String label) {
        return new JobFilter(name, namespaces, label, failing, paused, followedBy, after, order, limit);
    }

    /** {@return a copy for jobs whose last run neither succeeded nor was skipped} */
    public JobFilter thatFail() {
        return new JobFilter(name, namespaces, tag, true, paused, followedBy, after, order, limit);
    }

    /** {@return a copy for jobs that are paused} */
    public JobFilter thatArePaused() {
        return new JobFilter(name, namespaces, tag, failing, true, followedBy, after, order, limit);
    }

    /** {@return a copy for jobs that one follows} */
    public JobFilter followedBy(JobName job) {
        return new JobFilter(name, namespaces, tag, failing, paused, job, after, order, limit);
    }

    /** {@return a copy in another order} */
    public JobFilter in(JobOrder other) {
        return new JobFilter(name, namespaces, tag, failing, paused, followedBy, after, other, limit);
    }

    /** {@return a copy that begins after a job as it stands now, in the order of the filter; one by name may begin after any name} */
    public JobFilter after(JobName job) {
        return new JobFilter(name, namespaces, tag, failing, paused, followedBy, job, order, limit);
    }

    /** {@return the name of those that are shown, in which {@code *} stands for any letters} */
    public Optional<String> name() {
        return Optional.ofNullable(name);
    }

    /** {@return the namespaces of those that are shown; empty for all} */
    public Set<String> namespaces() {
        return namespaces;
    }

    /** {@return the tag that they carry} */
    public Optional<String> tag() {
        return Optional.ofNullable(tag);
    }

    /** {@return whether only those are shown whose last run neither succeeded nor was skipped} */
    public boolean failing() {
        return failing;
    }

    /** {@return whether only those are shown that are paused} */
    public boolean paused() {
        return paused;
    }

    /** {@return the job that follows those that are shown} */
    public Optional<JobName> followedBy() {
        return Optional.ofNullable(followedBy);
    }

    /** {@return the job after which it begins} */
    public Optional<JobName> after() {
        return Optional.ofNullable(after);
    }

    /** {@return in which order they are shown} */
    public JobOrder order() {
        return order;
    }

    /** {@return how many are shown at most} */
    public int limit() {
        return limit;
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof JobFilter that && parts().equals(that.parts());
    }

    @Override
    public int hashCode() {
        return parts().hashCode();
    }

    private List<@Nullable Object> parts() {
        return Arrays.asList(name, namespaces, tag, failing, paused, followedBy, after, order, limit);
    }

    /** {@return a test for a job alone, whatever its place in the order} */
    public Predicate<JobView> test() {
        Pattern pattern = Pattern.compile(Stream.of(name().orElse("*").split("\\*", -1))
                .map(Pattern::quote)
                .collect(Collectors.joining(".*")));
        return view -> pattern.matcher(view.name().name()).matches()
                && (namespaces.isEmpty() || namespaces.contains(view.name().namespace()))
                && tag().filter(each -> !view.job().tags().contains(each)).isEmpty()
                && (!failing || isFailing(view))
                && (!paused || view.row().paused())
                && followedBy().filter(each -> !leadsTo(view, each)).isEmpty();
    }

    /**
     * {@return a test for whether a job stands behind the one after which it begins}
     *
     * @param jobs how one stands now
     * @throws IllegalArgumentException if the order is not by name and there is no such job, so that nobody knows where it stood
     */
    public Predicate<JobView> behind(Function<JobName, Optional<JobView>> jobs) {
        if (after == null) {
            return view -> true;
        }
        JobName last = after;
        if (order == JobOrder.NAME) {
            return view -> JobOrder.inFull(view.name()).compareTo(JobOrder.inFull(last)) > 0;
        }
        JobView stood = jobs.apply(last).orElseThrow(() -> unknown(last));
        return view -> order.comparator().compare(view, stood) > 0;
    }

    /** {@return what to throw where there is no job to go on behind} */
    public static IllegalArgumentException unknown(JobName after) {
        return new IllegalArgumentException("there is no job " + after + " to go on behind; begin anew");
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
