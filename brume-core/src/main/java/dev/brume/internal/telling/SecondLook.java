package dev.brume.internal.telling;

import dev.brume.JobName;
import dev.brume.history.CauseRow;
import java.time.Instant;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/**
 * The jobs with which something began to go wrong a moment ago. Until instances know of that they do not note successes, so it is looked once more whether
 * one has ended it: by whoever told of it, and, should that process end before, by whoever watches. Confined to one thread.
 */
final class SecondLook {
    private static final int MOST = 10_000;

    private final long afterNanos;
    private final Map<JobName, Long> begun = new LinkedHashMap<>();
    private Map<String, Instant> goingOn = Map.of();

    /** Looks again so much later. */
    SecondLook(long afterNanos) {
        this.afterNanos = afterNanos;
    }

    /** Takes note that something began to go wrong with a job. */
    void begun(JobName job, long nanos) {
        if (begun.size() < MOST) {
            begun.putIfAbsent(job, nanos);
        }
    }

    /** Takes note of what goes on: what was not yet seen to go on has begun. What there is no room for is seen at a later look. */
    void goesOn(List<CauseRow> open, long nanos) {
        Map<String, Instant> seen = new HashMap<>();
        for (CauseRow cause : open) {
            if (cause.trouble().endsWithSuccess()) {
                boolean isNew = !cause.openedAt().equals(goingOn.get(cause.key()));
                if (!isNew || begun.size() < MOST) {
                    seen.put(cause.key(), cause.openedAt());
                }
                if (isNew) {
                    cause.jobName().ifPresent(job -> begun(job, nanos));
                }
            }
        }
        goingOn = seen;
    }

    /** {@return at most so many jobs that are to be looked at now} */
    List<JobName> due(long nanos, int most) {
        return begun.entrySet().stream()
                .takeWhile(each -> nanos - each.getValue() >= afterNanos)
                .limit(most)
                .map(Map.Entry::getKey)
                .toList();
    }

    /** Forgets jobs that were looked at. */
    void looked(List<JobName> jobs) {
        jobs.forEach(begun::remove);
    }
}
