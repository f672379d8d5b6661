package dev.brume.history;

import dev.brume.JobName;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.RunState;
import java.time.Instant;
import java.util.Arrays;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Which runs to show.
 *
 * <p>Immutable and safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class RunFilter {
    private final @Nullable JobName job;
    private final @Nullable Outcome outcome;
    private final @Nullable RunState state;
    private final @Nullable Instant from;
    private final @Nullable Instant until;
    private final @Nullable String tag;
    private final @Nullable String reason;
    private final @Nullable String instance;
    private final @Nullable Origin origin;
    private final @Nullable String error;
    private final @Nullable String key;
    private final @Nullable Below below;
    private final Set<String> namespaces;
    private final int limit;

    private RunFilter(
            @Nullable JobName job,
            @Nullable Outcome outcome,
            @Nullable RunState state,
            @Nullable Instant from,
            @Nullable Instant until,
            @Nullable String tag,
            @Nullable String reason,
            @Nullable String instance,
            @Nullable Origin origin,
            @Nullable String error,
            @Nullable String key,
            @Nullable Below below,
            Set<String> namespaces,
            int limit) {
        this.job = job;
        this.outcome = outcome;
        this.state = state;
        this.from = from;
        this.until = until;
        this.tag = tag;
        this.reason = reason;
        this.instance = instance;
        this.origin = origin;
        this.error = error;
        this.key = key;
        this.below = below;
        this.namespaces = namespaces;
        this.limit = limit;
    }

    /**
     * The last run of a page: the next page begins below it.
     *
     * @param planned its planned time
     * @param run its id
     */
    public record Below(Instant planned, long run) {}

    /** {@return a filter that lets everything through, up to a limit} */
    public static RunFilter newest(int limit) {
        return new RunFilter(null, null, null, null, null, null, null, null, null, null, null, null, Set.of(), limit);
    }

    /** {@return a copy for one job} */
    public RunFilter of(JobName name) {
        return new RunFilter(
                name, outcome, state, from, until, tag, reason, instance, origin, error, key, below, namespaces, limit);
    }

    /** {@return a copy for runs that ended so} */
    public RunFilter withOutcome(Outcome how) {
        return new RunFilter(
                job, how, state, from, until, tag, reason, instance, origin, error, key, below, namespaces, limit);
    }

    /** {@return a copy for live runs in a state} */
    public RunFilter withState(RunState where) {
        return new RunFilter(
                job, outcome, where, from, until, tag, reason, instance, origin, error, key, below, namespaces, limit);
    }

    /** {@return a copy for what was planned at an instant or after it} */
    public RunFilter from(Instant instant) {
        return new RunFilter(
                job,
                outcome,
                state,
                instant,
                until,
                tag,
                reason,
                instance,
                origin,
                error,
                key,
                below,
                namespaces,
                limit);
    }

    /** {@return a copy for what was planned before an instant} */
    public RunFilter until(Instant instant) {
        return new RunFilter(
                job,
                outcome,
                state,
                from,
                instant,
                tag,
                reason,
                instance,
                origin,
                error,
                key,
                below,
                namespaces,
                limit);
    }

    /** {@return a copy for runs of jobs that carry a tag} */
    public RunFilter withTag(String name) {
        return new RunFilter(
                job, outcome, state, from, until, name, reason, instance, origin, error, key, below, namespaces, limit);
    }

    /** {@return a copy for what has a reason on record; no live run has one} */
    public RunFilter withReason(String why) {
        return new RunFilter(
                job, outcome, state, from, until, tag, why, instance, origin, error, key, below, namespaces, limit);
    }

    /** {@return a copy for runs whose last attempt an instance carried out} */
    public RunFilter on(String name) {
        return new RunFilter(
                job, outcome, state, from, until, tag, reason, name, origin, error, key, below, namespaces, limit);
    }

    /** {@return a copy for runs that are owed to something} */
    public RunFilter withOrigin(Origin what) {
        return new RunFilter(
                job, outcome, state, from, until, tag, reason, instance, what, error, key, below, namespaces, limit);
    }

    /** {@return a copy for ended runs whose last error holds a text, in capitals or not} */
    public RunFilter withError(String text) {
        return new RunFilter(
                job, outcome, state, from, until, tag, reason, instance, origin, text, key, below, namespaces, limit);
    }

    /** {@return a copy for the runs of one-offs that were ordered under a key} */
    public RunFilter withKey(String oneOff) {
        return new RunFilter(
                job,
                outcome,
                state,
                from,
                until,
                tag,
                reason,
                instance,
                origin,
                error,
                oneOff,
                below,
                namespaces,
                limit);
    }

    /** {@return a copy that goes on where another page ended} */
    public RunFilter below(Below run) {
        return new RunFilter(
                job, outcome, state, from, until, tag, reason, instance, origin, error, key, run, namespaces, limit);
    }

    /** {@return a copy for runs of jobs of some namespaces; of all if there is none} */
    public RunFilter within(Collection<String> spaces) {
        return new RunFilter(
                job,
                outcome,
                state,
                from,
                until,
                tag,
                reason,
                instance,
                origin,
                error,
                key,
                below,
                Set.copyOf(spaces),
                limit);
    }

    /** {@return the namespaces of the jobs whose runs are shown; empty for all} */
    public Set<String> namespaces() {
        return namespaces;
    }

    /** {@return the job whose runs alone are shown} */
    public Optional<JobName> job() {
        return Optional.ofNullable(job);
    }

    /** {@return how those ended that are shown} */
    public Optional<Outcome> outcome() {
        return Optional.ofNullable(outcome);
    }

    /** {@return where those stand that are shown} */
    public Optional<RunState> state() {
        return Optional.ofNullable(state);
    }

    /** {@return the earliest planned time, inclusive} */
    public Optional<Instant> from() {
        return Optional.ofNullable(from);
    }

    /** {@return the end of the planned times, exclusive} */
    public Optional<Instant> until() {
        return Optional.ofNullable(until);
    }

    /** {@return the tag that the jobs carry} */
    public Optional<String> tag() {
        return Optional.ofNullable(tag);
    }

    /** {@return the reason that is on record} */
    public Optional<String> reason() {
        return Optional.ofNullable(reason);
    }

    /** {@return the instance that carried out the last attempt} */
    public Optional<String> instance() {
        return Optional.ofNullable(instance);
    }

    /** {@return what the runs are owed to} */
    public Optional<Origin> origin() {
        return Optional.ofNullable(origin);
    }

    /** {@return the text within the error of the last attempt} */
    public Optional<String> error() {
        return Optional.ofNullable(error);
    }

    /** {@return the key of the one-offs} */
    public Optional<String> key() {
        return Optional.ofNullable(key);
    }

    /** {@return the run below which it goes on} */
    public Optional<Below> below() {
        return Optional.ofNullable(below);
    }

    /** {@return how many are shown at most} */
    public int limit() {
        return limit;
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof RunFilter that && parts().equals(that.parts());
    }

    @Override
    public int hashCode() {
        return parts().hashCode();
    }

    private List<@Nullable Object> parts() {
        return Arrays.asList(
                job, outcome, state, from, until, tag, reason, instance, origin, error, key, below, namespaces, limit);
    }

    /** {@return whether no live run can be so} */
    public boolean isOfTheEnded() {
        return outcome != null || reason != null || error != null;
    }

    /** {@return whether it asks for nothing that spans do not have} */
    public boolean fitsSpans() {
        return outcome == null
                && state == null
                && tag == null
                && instance == null
                && origin == null
                && error == null
                && key == null
                && below == null;
    }
}
