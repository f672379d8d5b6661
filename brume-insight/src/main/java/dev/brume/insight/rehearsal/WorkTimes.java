package dev.brume.insight.rehearsal;

import dev.brume.DefinitionSet;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.schedule.Durations;
import java.time.Duration;
import java.util.List;
import java.util.Map;

/**
 * How long the work of jobs takes: as stated, else as measured, else as stated for all others.
 *
 * @param measured by job
 * @param stated by the job's name; for all others by the empty name
 * @since 0.1.0
 */
public record WorkTimes(Map<JobName, List<Duration>> measured, Map<String, Duration> stated) {
    private static final Duration UNLESS_GIVEN = Duration.ofSeconds(10);

    /** {@return the durations that the work of a job takes in turn} */
    public List<Duration> of(JobName job) {
        Duration own = stated.get(job.toString());
        return own != null ? List.of(own) : measured.getOrDefault(job, List.of(others()));
    }

    private Duration others() {
        return stated.getOrDefault("", UNLESS_GIVEN);
    }

    /** {@return where the durations of some definitions come from, in words} */
    public String words(DefinitionSet set) {
        long given = set.jobs().stream()
                .map(Job::name)
                .filter(key -> stated.containsKey(key.toString()))
                .count();
        long known = set.jobs().stream()
                .map(Job::name)
                .filter(key -> !stated.containsKey(key.toString()) && measured.containsKey(key))
                .count();
        long rest = set.jobs().size() - given - known;
        return "work takes as long as measured for " + known + (known == 1 ? " job" : " jobs")
                + (given == 0 ? "" : ", as stated for " + given)
                + (rest == 0 ? "" : ", " + Durations.format(others()) + " for " + rest + " never measured");
    }
}
