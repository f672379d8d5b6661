package dev.brume.http.internal.console;

import dev.brume.FollowUp;
import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.Role;
import dev.brume.history.History;
import dev.brume.history.JobView;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/**
 * What follows a job, one link after the other, and when each is likely to have ended.
 *
 * @param job its name
 * @param on after which end of the one before it runs; empty for the first
 * @param took how long it usually takes, in words
 * @param expected when it is likely to have ended, in words; empty if the first is not to come
 * @param then what follows it
 */
public record Chain(JobName job, String on, String took, String expected, List<Chain> then) {
    private static final int MOST = 30;
    private static final int DEEPEST = 6;
    private static final int MEASURED = 15;

    static Chain of(History history, Frame frame, JobView first) {
        return link(history, frame, first.name(), "", first.row().nextOccurrence(), new HashSet<>(), 0);
    }

    private static Chain link(
            History history,
            Frame frame,
            JobName job,
            String on,
            Optional<Instant> begins,
            Set<JobName> seen,
            int depth) {
        // Of a job that they may not look at they are told what their own definition says: its name.
        boolean isNew = seen.add(job)
                && seen.size() <= MOST
                && depth < DEEPEST
                && frame.caller().may(Role.VIEWER, job.namespace());
        Optional<Duration> usual = isNew ? usual(history, job) : Optional.empty();
        Optional<Instant> ends = begins.flatMap(at -> usual.map(at::plus));
        List<Chain> then = new ArrayList<>();
        if (isNew) {
            List<FollowUp> followUps =
                    history.job(job).map(view -> view.job().followUps()).orElse(List.of());
            for (FollowUp followUp : followUps) {
                then.add(link(history, frame, followUp.job(), word(followUp.on()), ends, seen, depth + 1));
            }
        }
        return new Chain(
                job,
                on,
                usual.map(size -> "usually takes " + Frame.size(size)).orElse(isNew ? "has not run yet" : ""),
                ends.map(end -> "likely to have ended " + frame.time(end)).orElse(""),
                then);
    }

    private static String word(FollowUp.On on) {
        return switch (on) {
            case SUCCESS -> "after success";
            case FAILURE -> "after failure";
            default -> "after any end";
        };
    }

    /** The median of the newest that succeeded. */
    private static Optional<Duration> usual(History history, JobName job) {
        List<Duration> took = history.runs(RunFilter.newest(MEASURED).of(job).withOutcome(Outcome.SUCCEEDED)).stream()
                .map(RunView::lastAttempt)
                .flatMap(Optional::stream)
                .flatMap(last -> last.endedAt().map(end -> Duration.between(last.startedAt(), end)).stream())
                .sorted()
                .toList();
        return took.isEmpty() ? Optional.empty() : Optional.of(took.get(took.size() / 2));
    }
}
