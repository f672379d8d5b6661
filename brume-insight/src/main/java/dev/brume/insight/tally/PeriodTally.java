package dev.brume.insight.tally;

import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.history.History;
import dev.brume.history.Timeframe;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Predicate;
import java.util.function.ToLongFunction;

/**
 * What was owed in a period, held against what is on record, job by job.
 *
 * @param from inclusive
 * @param until exclusive
 * @param at the database's clock when it was counted
 * @param jobs by name and id
 * @param deadlines how those kept their deadlines that had some, by id
 * @since 0.1.0
 */
public record PeriodTally(
        Instant from, Instant until, Instant at, List<JobTally> jobs, Map<Long, DeadlineTally> deadlines) {

    /**
     * Counts.
     *
     * @param job the only one to be counted; empty for all
     * @param lineByLine whether every line of the ledger is read, rather than what they were summed up to by the hour
     */
    public static PeriodTally of(
            History history, Optional<JobName> job, Instant from, Instant until, boolean lineByLine) {
        Timeframe all = Timeframe.between(from, until);
        Timeframe frame = job.map(all::of).orElse(all);
        List<JobTally> jobs = new ArrayList<>();
        if (lineByLine) {
            history.accounts(frame, account -> jobs.add(Tally.of(account, from, until)));
        } else {
            jobs.addAll(Accounts.read(history, frame, account -> Tally.ofSums(account, from, until)));
        }
        jobs.sort(Comparator.comparing(JobTally::job).thenComparing(JobTally::id));
        List<JobName> withDeadlines = jobs.stream()
                .filter(tally -> DeadlineTally.isStatedBy(tally.versions()))
                .map(JobTally::job)
                .toList();
        return new PeriodTally(from, until, history.now(), jobs, DeadlineTally.of(history, from, until, withDeadlines));
    }

    /** {@return a copy of some of its jobs} */
    public PeriodTally only(Predicate<JobTally> wanted) {
        return new PeriodTally(from, until, at, jobs.stream().filter(wanted).toList(), deadlines);
    }

    /** {@return how a job kept its deadlines, if it had some} */
    public Optional<DeadlineTally> deadlines(JobTally job) {
        return Optional.ofNullable(deadlines.get(job.id()));
    }

    /** {@return a figure over all jobs} */
    public long sum(ToLongFunction<JobTally> figure) {
        return jobs.stream().mapToLong(figure).sum();
    }

    /** {@return whether everything is explained} */
    public boolean isClean() {
        return jobs.stream().allMatch(JobTally::isClean);
    }

    /** {@return the whole in a sentence or two} */
    public String sentence() {
        long unexplained = sum(tally -> tally.count(Verdict.UNEXPLAINED));
        long missed = sum(tally -> tally.count(Verdict.MISSED));
        long gone = sum(tally -> tally.count(Verdict.BEYOND_RETENTION));
        long wrong = sum(tally -> tally.wrongSpans().size());
        return sum(JobTally::expected) + " owed, " + sum(JobTally::accounted) + " on record, "
                + sum(tally -> tally.count(Verdict.NOT_YET)) + " not planned yet, "
                + (gone > 0 ? gone + " beyond retention, " : "") + missed
                + " missed, " + unexplained + " unexplained" + (wrong > 0 ? ", " + wrong + " spans are wrong" : "")
                + ". Of those that began, " + sum(tally -> tally.began(Outcome.SUCCEEDED)) + " succeeded, "
                + sum(JobTally::failed) + " failed, "
                + sum(tally -> tally.began(Outcome.LOST)) + " were lost"
                + some(sum(tally -> tally.began(Outcome.CANCELLED)), "was cancelled", "were cancelled")
                + some(sum(JobTally::running), "has not ended", "have not ended") + "."
                + ofDeadlines();
    }

    private String ofDeadlines() {
        List<DeadlineTally> passed =
                jobs.stream().flatMap(job -> deadlines(job).stream()).toList();
        long due = passed.stream().mapToLong(DeadlineTally::due).sum();
        long missed = passed.stream().mapToLong(DeadlineTally::missed).sum();
        return due == 0
                ? ""
                : " Of " + due + (due == 1 ? " deadline, " : " deadlines, ") + missed + (missed == 1 ? " was" : " were")
                        + " missed.";
    }

    private static String some(long count, String one, String more) {
        return count == 0 ? "" : ", " + count + " " + (count == 1 ? one : more);
    }
}
