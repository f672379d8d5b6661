package dev.brume.insight.rehearsal;

import dev.brume.JobName;
import dev.brume.schedule.Note;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * The result of a rehearsal.
 *
 * @param from when it began
 * @param until when it ended
 * @param jobs each of them, in the order of their names
 * @param busiest the minutes in which most runs began, the busiest first
 * @param lanes how busy each lane was
 * @param touched occurrences that a clock change touches, earliest first
 * @since 0.1.0
 */
public record Foresight(
        Instant from,
        Instant until,
        List<JobForesight> jobs,
        List<BusyMinute> busiest,
        List<LaneForesight> lanes,
        List<Touched> touched) {

    /**
     * The result of one job.
     *
     * @param name the job
     * @param runs how many runs began
     * @param busy how many occurrences were due while earlier runs were unfinished: skipped, waiting or beside them
     * @param skipped how many occurrences were skipped, by reason
     * @param passedOver how many were passed over together
     * @param waited how many runs began more than a second after their time
     * @param late how late runs began, as percentiles; empty if none began
     * @param latest the latest of them
     * @param open how many had not begun in the end
     * @param want why nobody of the crew can run it; empty if someone can
     */
    public record JobForesight(
            JobName name,
            long runs,
            long busy,
            Map<String, Long> skipped,
            long passedOver,
            long waited,
            Optional<Lateness> late,
            Optional<Duration> latest,
            long open,
            Optional<String> want) {

        /** {@return how many were skipped, for whatever reason} */
        public long skippedInAll() {
            return skipped.values().stream().mapToLong(Long::longValue).sum();
        }

        /** {@return whether something in it is worth a look} */
        public boolean isNotable() {
            return busy > 0 || skippedInAll() > 0 || passedOver > 0 || waited > 0 || open > 0 || want.isPresent();
        }
    }

    /**
     * How late runs began.
     *
     * @param p50 half of them at most so late
     * @param p99 all but one in a hundred at most so late
     */
    public record Lateness(Duration p50, Duration p99) {}

    /**
     * A minute in which much began.
     *
     * @param minute its beginning
     * @param begun how many runs began in it
     * @param running how many were under way at once in it, at most
     * @param jobs the names of some whose runs began
     */
    public record BusyMinute(Instant minute, long begun, int running, List<JobName> jobs) {}

    /**
     * How busy a lane was.
     *
     * @param lane its name
     * @param workers how many the crew has for it
     * @param most how many were busy at once, at most
     * @param share of all the time of all workers, 0 to 1
     */
    public record LaneForesight(String lane, int workers, int most, double share) {}

    /**
     * An occurrence that a clock change touches.
     *
     * @param job whose
     * @param at when it is owed
     * @param note what becomes of it
     */
    public record Touched(JobName job, Instant at, Note note) {}
}
