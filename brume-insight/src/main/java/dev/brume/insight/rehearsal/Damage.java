package dev.brume.insight.rehearsal;

import dev.brume.JobName;
import dev.brume.notice.Notice;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;

/**
 * What came of it that something went wrong in a rehearsal.
 *
 * @param missed how many occurrences each job missed
 * @param lost how many runs of each job were lost for good
 * @param takenOver how many attempts of each job were lost with their instances, and made again
 * @param failed how many runs of each job failed or ran into their time limit
 * @param deadlines that fell, in their order
 * @param told the notices that would have been sent, in their order
 * @since 0.1.0
 */
public record Damage(
        Map<JobName, Long> missed,
        Map<JobName, Long> lost,
        Map<JobName, Long> takenOver,
        Map<JobName, Long> failed,
        List<Fall> deadlines,
        List<Notice> told) {

    /**
     * A deadline that was not met.
     *
     * @param job whose
     * @param planned the occurrence, of the job itself or of the one that begins its chain
     * @param deadline by when it should have ended
     * @param by by how much it ended later
     */
    public record Fall(JobName job, Instant planned, Instant deadline, Duration by) {}

    /** {@return how many there are of some jobs} */
    public static long sum(Map<JobName, Long> counts) {
        return counts.values().stream().mapToLong(Long::longValue).sum();
    }
}
