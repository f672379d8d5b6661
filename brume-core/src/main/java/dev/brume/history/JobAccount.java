package dev.brume.history;

import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.RunState;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * The record of one life of a job, as far as a period needs it.
 *
 * @param id of the job; a name that was dropped and defined again is another job
 * @param name its name
 * @param dropped whether it was dropped
 * @param versions of its definition, oldest first
 * @param keptFrom before it, lines may have been removed by retention
 * @param cursor up to where everything it owed is decided, inclusive
 * @param lines live runs and ledger lines planned within the period, by planned time
 * @param spans that overlap the period
 * @param sums of the lines that are left out of {@code lines}, in order; empty unless {@linkplain Timeframe#inSums asked for}
 * @since 0.1.0
 */
public record JobAccount(
        long id,
        JobName name,
        boolean dropped,
        List<Version> versions,
        Instant keptFrom,
        Instant cursor,
        List<Line> lines,
        List<Span> spans,
        List<SummedStretch> sums) {

    /**
     * A version of a definition.
     *
     * @param number from 1
     * @param job as it was pinned
     * @param after from when it held, exclusive; up to where the next one began, inclusive
     * @param source where it came from, such as a file's name
     */
    public record Version(int number, Job job, Instant after, String source) {}

    /** {@return the sums of all ended lines, whether they were read in sums or not} */
    public LineSums inAll() {
        List<LineSums> all = new ArrayList<>();
        // Those that are not plain are among the lines in any case.
        sums.forEach(stretch -> all.add(stretch.sums().withoutOthers()));
        all.add(LineSums.of(
                lines.stream().filter(line -> line.outcome().isPresent()).toList()));
        return LineSums.sum(all);
    }

    /**
     * A run or a ledger line.
     *
     * @param run its id
     * @param planned what it is owed to
     * @param slot empty for the usual one
     * @param origin what kind of debt
     * @param outcome how it ended, empty while it is live
     * @param state where it stands, empty once it has ended
     * @param reason why
     * @param started when its first attempt began, empty if none has
     * @param took how long its last attempt took, empty unless that has ended
     * @param ended when its last attempt ended, empty unless it has
     * @param takenOver whether an instance died over it
     * @param instance that carried out the last attempt
     * @param parent the run whose end brought it about, if it follows one
     */
    public record Line(
            long run,
            Instant planned,
            String slot,
            Origin origin,
            Optional<Outcome> outcome,
            Optional<RunState> state,
            Optional<String> reason,
            Optional<Instant> started,
            Optional<Duration> took,
            Optional<Instant> ended,
            boolean takenOver,
            Optional<String> instance,
            Optional<Long> parent) {

        /** The line of a run that has not ended. */
        public static Line live(RunRow run) {
            Optional<Instant> first = run.attempts().stream()
                    .findFirst()
                    .map(Attempt::startedAt)
                    .or(() -> run.lease().map(RunRow.Lease::since));
            return new Line(
                    run.id(),
                    run.owed().planned(),
                    run.owed().slot(),
                    run.owed().origin(),
                    Optional.empty(),
                    Optional.of(run.state()),
                    Optional.empty(),
                    first,
                    Optional.empty(),
                    Optional.empty(),
                    wasTakenOver(run.attempts()),
                    Optional.empty(),
                    run.owed().parent());
        }

        /** {@return whether an instance died over one of some attempts} */
        public static boolean wasTakenOver(List<Attempt> attempts) {
            return attempts.stream()
                    .anyMatch(attempt ->
                            attempt.end().filter(end -> end == AttemptEnd.LOST).isPresent());
        }

        /** {@return whether it can be summed up: it ended, it began, and a schedule owed it once} */
        public boolean isPlain() {
            return isOwedByASchedule()
                    && slot.isEmpty()
                    && started.isPresent()
                    && outcome.filter(ended -> ended != Outcome.SKIPPED).isPresent();
        }

        /** {@return whether it ended well} */
        public boolean hasSucceeded() {
            return outcome.filter(Outcome.SUCCEEDED::equals).isPresent();
        }

        /** {@return whether a schedule owes it, rather than someone's order} */
        public boolean isOwedByASchedule() {
            return origin == Origin.SCHEDULE || origin == Origin.CATCH_UP;
        }

        /** {@return how long after its planned time it began} */
        public Optional<Duration> late() {
            return started.map(at -> Duration.between(planned, at));
        }
    }
}
