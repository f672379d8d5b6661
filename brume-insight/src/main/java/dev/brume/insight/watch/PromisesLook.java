package dev.brume.insight.watch;

import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.history.History;
import dev.brume.history.JobView;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.insight.deadline.Deadlines;
import dev.brume.insight.deadline.Forecast;
import dev.brume.insight.why.Question;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.Sighting;
import dev.brume.schedule.Durations;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** Looks at what jobs promise: to end by a deadline, to succeed now and then. Confined to one thread. */
final class PromisesLook {
    private static final Duration FORECASTS = Duration.ofSeconds(10);
    private static final int MOST_KNOWN = 100_000;

    private final Deadlines deadlines = new Deadlines();
    private final Map<JobName, Instant> succeeded = new HashMap<>();
    private List<Sighting> atDeadlines = List.of();
    private Optional<Instant> foretoldAt = Optional.empty();

    List<Sighting> look(History history, Instant now, Set<NoticeKind> asked) {
        List<JobView> watched = history.watchedJobs();
        List<Sighting> seen = new ArrayList<>();
        if (asked.contains(NoticeKind.SILENT)) {
            watched.stream()
                    .filter(view -> view.job().successWithin().isPresent())
                    .forEach(view -> silence(history, view, now).ifPresent(seen::add));
        }
        if (asked.contains(NoticeKind.DEADLINE_AT_RISK) || asked.contains(NoticeKind.DEADLINE_MISSED)) {
            if (foretoldAt.filter(at -> at.plus(FORECASTS).isAfter(now)).isEmpty()) {
                atDeadlines = watched.stream()
                        .flatMap(view -> deadline(history, view, now).stream())
                        .toList();
                foretoldAt = Optional.of(now);
            }
            seen.addAll(atDeadlines);
        }
        return seen;
    }

    private static Sighting.OfJob job(JobView view) {
        return new Sighting.OfJob(
                view.row().id(), view.name(), Set.copyOf(view.job().tags()));
    }

    /** As long as the success that is known is not too long ago, nobody has to look for a newer one. */
    private Optional<Sighting> silence(History history, JobView view, Instant now) {
        Duration within = view.job().successWithin().orElseThrow();
        Instant known = succeeded.get(view.name());
        if (known != null && known.plus(within).isAfter(now)) {
            return Optional.empty();
        }
        Optional<Instant> last = lastSuccess(history, view.name());
        Instant since = last.orElse(view.definedAt());
        if (succeeded.size() > MOST_KNOWN) {
            succeeded.clear();
        }
        succeeded.put(view.name(), since);
        if (since.plus(within).isAfter(now)) {
            return Optional.empty();
        }
        Map<String, String> facts = new LinkedHashMap<>();
        last.ifPresent(at -> facts.put("lastSuccess", at.toString()));
        facts.put("successWithin", Durations.format(within));
        String why =
                new Question(history, view, now, Instant::toString).aboutNow().sentence();
        facts.put("why", why);
        String title = view.name() + " has not succeeded for " + Durations.about(Duration.between(since, now)) + ", "
                + Durations.format(within) + " is what it allows"
                + last.map(at -> "; the last success ended " + at.truncatedTo(ChronoUnit.SECONDS))
                        .orElse("; it never has");
        return Optional.of(new Sighting(
                NoticeKind.SILENT,
                view.name().toString(),
                Optional.of(job(view)),
                now,
                1,
                since.toString(),
                since.toString(),
                title,
                facts));
    }

    private static Optional<Instant> lastSuccess(History history, JobName job) {
        return history.runs(RunFilter.newest(1).of(job).withOutcome(Outcome.SUCCEEDED)).stream()
                .findFirst()
                .map(run -> run.attempts().stream()
                        .reduce((a, b) -> b)
                        .flatMap(last -> last.endedAt())
                        .orElseGet(() -> recorded(run)));
    }

    private static Instant recorded(RunView run) {
        return run.recordedAt().orElseGet(run::readyAt);
    }

    private Optional<Sighting> deadline(History history, JobView view, Instant now) {
        Optional<Forecast> forecast = deadlines.of(history, view, now);
        return forecast.filter(found -> found.state() == Forecast.State.AT_RISK
                        || found.state() == Forecast.State.MISSED && stillGoesOn(found, now))
                .map(found -> {
                    boolean missed = found.state() == Forecast.State.MISSED;
                    Map<String, String> facts = new LinkedHashMap<>();
                    facts.put("planned", found.planned().toString());
                    facts.put("deadline", found.deadline().toString());
                    found.expected().ifPresent(end -> facts.put("expected", end.toString()));
                    found.waitsFor().ifPresent(what -> facts.put("waitsFor", what));
                    return new Sighting(
                            missed ? NoticeKind.DEADLINE_MISSED : NoticeKind.DEADLINE_AT_RISK,
                            view.name().toString(),
                            Optional.of(job(view)),
                            now,
                            1,
                            found.deadline().toString(),
                            (missed ? "missed " : "at risk ") + found.deadline(),
                            found.words(view.name().toString(), now),
                            facts);
                });
    }

    /** One that ended too late before anybody looked is told as long as that is fresh. */
    private static boolean stillGoesOn(Forecast forecast, Instant now) {
        return forecast.deadline().plus(Duration.ofDays(1)).isAfter(now);
    }
}
