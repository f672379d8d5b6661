package dev.brume.history;

import dev.brume.JobName;
import java.time.Instant;
import java.util.Collection;
import java.util.Optional;
import java.util.Set;

/**
 * Which of the one-offs that wait to show.
 *
 * @param job whose; empty for all
 * @param prefix of their keys; empty for all
 * @param namespaces of their jobs; empty for all
 * @param after where a page before ended
 * @param limit how many are shown at most
 * @since 0.1.0
 */
public record OneOffFilter(
        Optional<JobName> job, String prefix, Set<String> namespaces, Optional<After> after, int limit) {
    /** Makes the set unmodifiable. */
    public OneOffFilter {
        namespaces = Set.copyOf(namespaces);
    }

    /**
     * The last one-off of a page: the next page begins after it.
     *
     * @param dueAt when it is due
     * @param run the number of its run
     */
    public record After(Instant dueAt, long run) {}

    /** {@return a filter that lets everything through, earliest first, up to a limit} */
    public static OneOffFilter first(int limit) {
        return new OneOffFilter(Optional.empty(), "", Set.of(), Optional.empty(), limit);
    }

    /** {@return a copy for one job} */
    public OneOffFilter of(JobName name) {
        return new OneOffFilter(Optional.of(name), prefix, namespaces, after, limit);
    }

    /** {@return a copy for those whose keys begin so} */
    public OneOffFilter withPrefix(String beginning) {
        return new OneOffFilter(job, beginning, namespaces, after, limit);
    }

    /** {@return a copy for those of jobs of some namespaces; of all if there is none} */
    public OneOffFilter within(Collection<String> spaces) {
        return new OneOffFilter(job, prefix, Set.copyOf(spaces), after, limit);
    }

    /** {@return a copy that goes on where another page ended} */
    public OneOffFilter after(After last) {
        return new OneOffFilter(job, prefix, namespaces, Optional.of(last), limit);
    }
}
