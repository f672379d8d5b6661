package dev.brume.insight.rehearsal;

import dev.brume.JobName;
import dev.brume.insight.tally.DeadlineTally;
import dev.brume.notice.Notice;
import java.util.List;
import java.util.Map;

/**
 * What came of it that something went wrong in a rehearsal.
 *
 * @param missed how many occurrences each job missed
 * @param lost how many runs of each job were lost for good
 * @param takenOver how many attempts of each job were lost with their instances, and made again
 * @param failed how many runs of each job failed or ran into their time limit
 * @param deadlines how jobs kept theirs, of those that had some
 * @param told the notices that would have been sent, in their order
 * @since 0.1.0
 */
public record Damage(
        Map<JobName, Long> missed,
        Map<JobName, Long> lost,
        Map<JobName, Long> takenOver,
        Map<JobName, Long> failed,
        Map<JobName, DeadlineTally> deadlines,
        List<Notice> told) {

    /** {@return how many there are of some jobs} */
    public static long sum(Map<JobName, Long> counts) {
        return counts.values().stream().mapToLong(Long::longValue).sum();
    }

    /** {@return how many deadlines were missed} */
    public long deadlinesMissed() {
        return deadlines.values().stream().mapToLong(DeadlineTally::missed).sum();
    }
}
