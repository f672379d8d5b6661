package dev.brume.insight.tally;

import dev.brume.JobName;
import dev.brume.history.Ends;
import dev.brume.history.History;
import dev.brume.history.JobAccount;
import dev.brume.history.Timeframe;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * How runs of a period went, job by job, and how they ended in as long a period before it.
 *
 * @param from inclusive
 * @param until exclusive
 * @param jobs by name and id
 * @since 0.1.0
 */
public record PeriodFigures(Instant from, Instant until, List<OfJob> jobs) {

    /**
     * The figures of one job.
     *
     * @param job its name
     * @param id its id
     * @param dropped whether it was dropped
     * @param figures of the period
     * @param before how its runs ended before it
     * @param deadlines how it kept its deadlines, if it had some
     */
    public record OfJob(
            JobName job, long id, boolean dropped, JobFigures figures, Ends before, Optional<DeadlineTally> deadlines) {
        private OfJob with(Map<Long, DeadlineTally> all) {
            return new OfJob(job, id, dropped, figures, before, Optional.ofNullable(all.get(id)));
        }

        /** Whether the job was dropped before the period itself began, so that only the one before knows of it. */
        private boolean isOver() {
            return dropped && figures.outcomes().isEmpty() && figures.live() == 0;
        }

        /** {@return by how much the share of good ones rose or fell, in points of a hundred} */
        public Optional<Double> trend() {
            return figures.successShare()
                    .flatMap(share ->
                            JobFigures.successShare(before.outcomes()).map(earlier -> (share - earlier) * 100));
        }
    }

    /**
     * Reads.
     *
     * @param job the only one; empty for all
     * @param lineByLine whether every line of the ledger is read, rather than what they were summed up to by the hour
     */
    public static PeriodFigures of(
            History history, Optional<JobName> job, Instant from, Instant until, boolean lineByLine) {
        Timeframe all = Timeframe.between(from.minus(Duration.between(from, until)), until);
        Timeframe frame = job.map(all::of).orElse(all).splitAt(from);
        List<OfJob> lines = new ArrayList<>();
        Set<JobName> withDeadlines = new HashSet<>();
        if (lineByLine) {
            history.accounts(
                    frame, account -> of(account, frame, from, withDeadlines).ifPresent(lines::add));
        } else {
            lines.addAll(Accounts.read(history, frame, account -> of(account, frame, from, withDeadlines)));
        }
        lines.removeIf(OfJob::isOver);
        lines.sort(Comparator.comparing(OfJob::job).thenComparing(OfJob::id));
        Map<Long, DeadlineTally> deadlines = DeadlineTally.of(history, from, until, withDeadlines);
        lines.replaceAll(line -> line.with(deadlines));
        return new PeriodFigures(from, until, lines);
    }

    /** A job's figures from an instant on, and how its runs ended before it. */
    private static Optional<OfJob> of(JobAccount account, Timeframe frame, Instant begin, Set<JobName> withDeadlines) {
        if (DeadlineTally.isStatedBy(account.versions())) {
            withDeadlines.add(account.name());
        }
        return JobFigures.ofSums(account, begin, frame.until())
                .map(figures -> new OfJob(
                        account.name(),
                        account.id(),
                        account.dropped(),
                        figures,
                        JobFigures.endsOf(account, frame.from(), begin),
                        Optional.empty()));
    }
}
