package dev.brume.insight.tally;

import dev.brume.Outcome;
import java.util.Collection;
import java.util.function.ToLongFunction;

/**
 * A figure of the tally, the same in tables, in JSON and in reports.
 *
 * @since 0.1.0
 */
public enum TallyFigure {
    /** What schedules owed. */
    OWED("owed", JobTally::expected),
    /** What began within its tolerance. */
    ON_TIME("onTime", tally -> tally.count(Verdict.ON_TIME)),
    /** What began later. */
    LATE("late", tally -> tally.count(Verdict.LATE)),
    /** What was left out, for a reason on record. */
    SKIPPED("skipped", tally -> tally.count(Verdict.SKIPPED)),
    /** What could not begin within its tolerance and was not made up for. */
    MISSED("missed", tally -> tally.count(Verdict.MISSED)),
    /** What fell into a pause. */
    PAUSED("paused", tally -> tally.count(Verdict.PAUSED)),
    /** What is not decided or has not begun. */
    OPEN("open", JobTally::open),
    /** What retention has removed. */
    GONE("gone", tally -> tally.count(Verdict.BEYOND_RETENTION)),
    /** What nothing is on record of. */
    UNEXPLAINED("unexplained", tally -> tally.count(Verdict.UNEXPLAINED)),
    /** Of what began, what succeeded. */
    SUCCEEDED("succeeded", tally -> tally.began(Outcome.SUCCEEDED)),
    /** Of what began, what failed or timed out. */
    FAILED("failed", JobTally::failed),
    /** Of what began, what was lost. */
    LOST("lost", tally -> tally.began(Outcome.LOST));

    private final String word;
    private final ToLongFunction<JobTally> figure;

    TallyFigure(String word, ToLongFunction<JobTally> figure) {
        this.word = word;
        this.figure = figure;
    }

    /** {@return its name in JSON} */
    public String word() {
        return word;
    }

    /** {@return what it is over some jobs} */
    public long sum(Collection<JobTally> tallies) {
        return tallies.stream().mapToLong(figure).sum();
    }
}
