package dev.brume.insight.deadline;

import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.history.History;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * How long the last runs of jobs took that succeeded, read again after a while. Confined to one thread.
 *
 * @since 0.1.0
 */
public final class PastDurations {
    /** Of how many runs of a job. */
    private static final int RUNS = 100;

    /** Of fewer than so many nothing is said. */
    private static final int LEAST = 5;

    private static final Duration BACK = Duration.ofDays(30);
    private static final Duration FRESH = Duration.ofMinutes(10);
    private static final int MOST = 10_000;

    private record Known(List<Duration> sorted, Instant at) {}

    /** Creates it, knowing nothing yet. */
    public PastDurations() {
        // What it has read it keeps for a while.
    }

    private final Map<JobName, Known> known = new HashMap<>();

    /** {@return them, shortest first; empty if there are too few} */
    public List<Duration> of(History history, JobName job, Instant now) {
        Known last = known.get(job);
        if (last == null || last.at.plus(FRESH).isBefore(now)) {
            if (known.size() > MOST) {
                known.clear();
            }
            last = new Known(read(history, job, now), now);
            known.put(job, last);
        }
        return last.sorted;
    }

    private static List<Duration> read(History history, JobName job, Instant now) {
        List<Duration> took =
                history
                        .runs(RunFilter.newest(RUNS)
                                .of(job)
                                .withOutcome(Outcome.SUCCEEDED)
                                .from(now.minus(BACK)))
                        .stream()
                        .flatMap(run -> took(run).stream())
                        .sorted()
                        .toList();
        return took.size() < LEAST ? List.of() : took;
    }

    private static Optional<Duration> took(RunView run) {
        return run.attempts().stream()
                .reduce((a, b) -> b)
                .flatMap(last -> last.endedAt().map(end -> Duration.between(last.startedAt(), end)));
    }

    /** {@return what a share of them did not exceed; empty if there are too few} */
    public Optional<Duration> percentile(History history, JobName job, Instant now, double share) {
        List<Duration> sorted = of(history, job, now);
        return sorted.isEmpty()
                ? Optional.empty()
                : Optional.of(sorted.get((int) Math.min(sorted.size() - 1L, (long) Math.floor(sorted.size() * share))));
    }
}
