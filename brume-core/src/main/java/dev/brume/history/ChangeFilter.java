package dev.brume.history;

import dev.brume.JobName;
import java.time.Instant;
import java.util.Arrays;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Which lines of the change log to show.
 *
 * <p>Immutable and safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class ChangeFilter {
    private final @Nullable JobName job;
    private final @Nullable String kind;
    private final @Nullable String who;
    private final @Nullable Instant from;
    private final @Nullable Instant until;
    private final @Nullable Long before;
    private final Set<String> namespaces;
    private final int limit;

    private ChangeFilter(
            @Nullable JobName job,
            @Nullable String kind,
            @Nullable String who,
            @Nullable Instant from,
            @Nullable Instant until,
            @Nullable Long before,
            Set<String> namespaces,
            int limit) {
        this.job = job;
        this.kind = kind;
        this.who = who;
        this.from = from;
        this.until = until;
        this.before = before;
        this.namespaces = namespaces;
        this.limit = limit;
    }

    /** {@return a filter that lets everything through, up to a limit} */
    public static ChangeFilter newest(int limit) {
        return new ChangeFilter(null, null, null, null, null, null, Set.of(), limit);
    }

    /** {@return a copy for lines about one job, pauses of all jobs and of its tags included} */
    public ChangeFilter of(JobName name) {
        return new ChangeFilter(name, kind, who, from, until, before, namespaces, limit);
    }

    /** {@return a copy for one kind} */
    public ChangeFilter withKind(String word) {
        return new ChangeFilter(job, word, who, from, until, before, namespaces, limit);
    }

    /** {@return a copy for the changes of a user or an instance} */
    public ChangeFilter by(String name) {
        return new ChangeFilter(job, kind, name, from, until, before, namespaces, limit);
    }

    /** {@return a copy for changes at an instant or after it} */
    public ChangeFilter from(Instant instant) {
        return new ChangeFilter(job, kind, who, instant, until, before, namespaces, limit);
    }

    /** {@return a copy for changes before an instant} */
    public ChangeFilter until(Instant instant) {
        return new ChangeFilter(job, kind, who, from, instant, before, namespaces, limit);
    }

    /** {@return a copy for lines with a lower id, to go on where another page ended} */
    public ChangeFilter before(long line) {
        return new ChangeFilter(job, kind, who, from, until, line, namespaces, limit);
    }

    /** {@return a copy for lines about jobs and pauses of some namespaces; about everything if there is none} */
    public ChangeFilter within(Collection<String> spaces) {
        return new ChangeFilter(job, kind, who, from, until, before, Set.copyOf(spaces), limit);
    }

    /** {@return the namespaces that those are about that are shown; empty for all} */
    public Set<String> namespaces() {
        return namespaces;
    }

    /** {@return the job that those are about that are shown} */
    public Optional<JobName> job() {
        return Optional.ofNullable(job);
    }

    /** {@return the kind of those that are shown} */
    public Optional<String> kind() {
        return Optional.ofNullable(kind);
    }

    /** {@return the user or instance whose changes are shown} */
    public Optional<String> who() {
        return Optional.ofNullable(who);
    }

    /** {@return the earliest time, inclusive} */
    public Optional<Instant> from() {
        return Optional.ofNullable(from);
    }

    /** {@return the end of the times, exclusive} */
    public Optional<Instant> until() {
        return Optional.ofNullable(until);
    }

    /** {@return the line before which it goes on} */
    public Optional<Long> before() {
        return Optional.ofNullable(before);
    }

    /** {@return how many are shown at most} */
    public int limit() {
        return limit;
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof ChangeFilter that && parts().equals(that.parts());
    }

    @Override
    public int hashCode() {
        return parts().hashCode();
    }

    private List<@Nullable Object> parts() {
        return Arrays.asList(job, kind, who, from, until, before, namespaces, limit);
    }
}
