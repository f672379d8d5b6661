package dev.brume.insight.tally;

import dev.brume.JobName;
import dev.brume.history.History;
import dev.brume.history.JobAccount;
import dev.brume.history.JobView;
import dev.brume.history.Timeframe;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * How a job kept its deadlines in a period. An occurrence that was left out, by a pause, by its job's policy or by order, has none; one that was missed
 * has. A job without schedules has the deadlines of the occurrences that its chain begins with.
 *
 * @param due how many deadlines passed
 * @param missed by how many of them the run had not ended well
 * @param listed the newest {@value #MOST_LISTED} of those, oldest first
 * @since 0.1.0
 */
public record DeadlineTally(long due, long missed, List<Missed> listed) {
    /** How many missed deadlines are kept by themselves; all are counted. */
    public static final int MOST_LISTED = 1000;

    /**
     * A deadline by which a run had not ended well.
     *
     * @param planned the occurrence that it is of
     * @param deadline by when it was to have ended
     * @param run of the job that has the deadline, if it came to that
     * @param ended when that ended well after all; empty if it did not
     */
    public record Missed(Instant planned, Instant deadline, Optional<Long> run, Optional<Instant> ended) {}

    /**
     * Counts, line by line.
     *
     * @param from of the occurrences, inclusive
     * @param until of the occurrences and of their deadlines, exclusive; not later than now
     * @param jobs some of which have deadlines
     * @return by the ids of jobs; nothing of one that had no deadline
     */
    public static Map<Long, DeadlineTally> of(History history, Instant from, Instant until, Collection<JobName> jobs) {
        if (jobs.isEmpty() || !from.isBefore(until)) {
            return Map.of();
        }
        DeadlineCount count = new DeadlineCount(history.jobs(), jobs, from, until);
        history.accounts(Accounts.among(count.concerned(), Timeframe.between(from, until)), count::take);
        return count.counted();
    }

    /**
     * Counts what is already read.
     *
     * @param defined all jobs that are defined
     * @param accounts of those that have deadlines and of those that they follow, with their lines
     * @param from of the occurrences, inclusive
     * @param until of the occurrences and of their deadlines, exclusive; not later than now
     * @return by the ids of jobs; nothing of one that had no deadline
     */
    public static Map<Long, DeadlineTally> of(
            Collection<JobView> defined, Collection<JobAccount> accounts, Instant from, Instant until) {
        List<JobName> jobs = accounts.stream()
                .filter(account -> isStatedBy(account.versions()))
                .map(JobAccount::name)
                .toList();
        DeadlineCount count = new DeadlineCount(defined, jobs, from, until);
        accounts.forEach(count::take);
        return count.counted();
    }

    /** {@return the jobs that have deadlines now, and those that they follow} */
    public static Set<JobName> concerned(Collection<JobView> defined) {
        List<JobName> jobs = defined.stream()
                .filter(view -> view.job().endBy().isPresent())
                .map(JobView::name)
                .toList();
        return new DeadlineCount(defined, jobs, Instant.EPOCH, Instant.EPOCH).concerned();
    }

    /** {@return whether one of some versions states a deadline} */
    public static boolean isStatedBy(Collection<JobAccount.Version> versions) {
        return versions.stream().anyMatch(version -> version.job().endBy().isPresent());
    }
}
