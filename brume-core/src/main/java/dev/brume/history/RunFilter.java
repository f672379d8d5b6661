package dev.brume.history;

import dev.brume.JobName;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.RunState;
import java.time.Instant;
import java.util.Optional;

/**
 * Which runs to show.
 *
 * @param job only this job's
 * @param outcome only those that ended so
 * @param state only live ones in this state
 * @param from only those planned at or after
 * @param until only those planned before
 * @param narrow further conditions
 * @param limit how many at most
 * @since 0.1.0
 */
public record RunFilter(
        Optional<JobName> job,
        Optional<Outcome> outcome,
        Optional<RunState> state,
        Optional<Instant> from,
        Optional<Instant> until,
        Narrow narrow,
        int limit) {

    /**
     * Further conditions that a run must meet to be shown.
     *
     * @param tag of jobs that carry it
     * @param reason that is on record; no live run has one
     * @param instance that carried out the last attempt
     * @param origin what they are owed to
     * @param error a text within the error of the last attempt, in capitals or not; of ended runs only
     * @param below a run, to go on where another page ended
     */
    public record Narrow(
            Optional<String> tag,
            Optional<String> reason,
            Optional<String> instance,
            Optional<Origin> origin,
            Optional<String> error,
            Optional<Below> below) {
        /** Nothing else. */
        public static final Narrow NOT = new Narrow(
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty());

        /** {@return whether no live run can be so} */
        public boolean isOfTheEnded() {
            return reason.isPresent() || error.isPresent();
        }
    }

    /**
     * The last run of a page: the next page begins below it.
     *
     * @param planned its planned time
     * @param run its id
     */
    public record Below(Instant planned, long run) {}

    /** A filter that is not narrowed down further. */
    public RunFilter(
            Optional<JobName> job,
            Optional<Outcome> outcome,
            Optional<RunState> state,
            Optional<Instant> from,
            Optional<Instant> until,
            int limit) {
        this(job, outcome, state, from, until, Narrow.NOT, limit);
    }

    /** {@return a filter that lets everything through, up to a limit} */
    public static RunFilter newest(int limit) {
        return new RunFilter(
                Optional.empty(), Optional.empty(), Optional.empty(), Optional.empty(), Optional.empty(), limit);
    }

    /** {@return a copy for one job} */
    public RunFilter of(JobName key) {
        return new RunFilter(Optional.of(key), outcome, state, from, until, narrow, limit);
    }

    /** {@return a copy that is narrowed down} */
    public RunFilter narrowed(Narrow to) {
        return new RunFilter(job, outcome, state, from, until, to, limit);
    }
}
