package dev.brume.insight.watch;

import dev.brume.Attempt;
import dev.brume.JobName;
import dev.brume.RunState;
import dev.brume.history.History;
import dev.brume.history.JobView;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.insight.deadline.PastDurations;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.NoticeRule;
import dev.brume.notice.Sighting;
import dev.brume.schedule.Durations;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;

/** Looks at live runs: which have not begun although they should have, and which take long. Confined to one thread. */
final class LiveRunsLook {
    private static final int MOST = 1000;
    private static final int HUNDRED = 100;

    private final PastDurations durations = new PastDurations();

    List<Sighting> look(History history, Instant now, List<NoticeRule> rules) {
        Map<JobName, Optional<JobView>> jobs = new HashMap<>();
        List<Sighting> seen = new ArrayList<>();
        List<Duration> late = sorted(rules.stream().flatMap(rule -> rule.late().stream()));
        if (!late.isEmpty()) {
            Duration least = late.get(0);
            Stream.of(RunState.PLANNED, RunState.WAITING)
                    .flatMap(state ->
                            history.runs(RunFilter.newest(MOST).withState(state).until(now)).stream())
                    .filter(run -> !run.owed().planned().plus(least).isAfter(now)
                            && run.attempts().isEmpty())
                    .forEach(run -> view(history, run, jobs).ifPresent(view -> seen.add(late(run, now, view, late))));
        }
        List<Duration> lengths = sorted(rules.stream().flatMap(rule -> rule.tookLonger().stream()));
        List<Integer> percents = rules.stream()
                .flatMapToInt(rule -> rule.tookLongerThanUsual().stream())
                .sorted()
                .distinct()
                .boxed()
                .toList();
        if (!lengths.isEmpty() || !percents.isEmpty()) {
            history.runs(RunFilter.newest(MOST).withState(RunState.RUNNING))
                    .forEach(run -> view(history, run, jobs)
                            .flatMap(view -> length(history, run, now, view, lengths, percents))
                            .ifPresent(seen::add));
        }
        return seen;
    }

    private static List<Duration> sorted(Stream<Duration> some) {
        return some.sorted().distinct().toList();
    }

    private static Optional<JobView> view(History history, RunView run, Map<JobName, Optional<JobView>> known) {
        return known.computeIfAbsent(run.job(), history::job);
    }

    private static Sighting.OfJob job(JobView view) {
        return new Sighting.OfJob(
                view.row().id(), view.name(), Set.copyOf(view.job().tags()));
    }

    /** It looks different once it has crossed another rule's bound. */
    private static Sighting late(RunView run, Instant now, JobView view, List<Duration> bounds) {
        Duration by = Duration.between(run.owed().planned(), now);
        long crossed = bounds.stream().filter(bound -> by.compareTo(bound) >= 0).count();
        Map<String, String> facts = facts(run);
        facts.put("lateMillis", Long.toString(by.toMillis()));
        facts.put("state", run.state().map(RunState::name).orElse(""));
        return new Sighting(
                NoticeKind.LATE,
                view.name().toString(),
                Optional.of(job(view)),
                now,
                1,
                run.id() + "." + crossed,
                "run " + run.id() + ", " + crossed,
                view.name() + " has not begun " + Durations.about(by) + " after its planned time",
                facts);
    }

    private Optional<Sighting> length(
            History history, RunView run, Instant now, JobView view, List<Duration> bounds, List<Integer> percents) {
        Optional<Attempt> attempt = run.attempts().stream().reduce((a, b) -> b);
        if (attempt.isEmpty()) {
            return Optional.empty();
        }
        Duration took = Duration.between(attempt.get().startedAt(), now);
        long crossed =
                bounds.stream().filter(bound -> took.compareTo(bound) >= 0).count();
        Map<String, String> facts = facts(run);
        facts.put("attempt", Integer.toString(attempt.get().number()));
        facts.put("instance", attempt.get().instance());
        facts.put("tookMillis", Long.toString(took.toMillis()));
        String usual = "";
        List<Duration> past = percents.isEmpty() ? List.of() : durations.of(history, run.job(), now);
        if (!past.isEmpty()) {
            long shorter =
                    past.stream().filter(each -> each.compareTo(took) < 0).count() * HUNDRED / past.size();
            crossed += percents.stream().filter(percent -> shorter >= percent).count();
            String half = Durations.about(past.get(past.size() / 2));
            facts.put("percentile", Long.toString(shorter));
            facts.put("usual", half);
            usual = ", half of its runs take " + half + " or less";
        }
        if (crossed == 0) {
            return Optional.empty();
        }
        return Optional.of(new Sighting(
                NoticeKind.TOOK_LONGER,
                view.name().toString(),
                Optional.of(job(view)),
                now,
                1,
                run.id() + "." + attempt.get().number() + "." + crossed,
                "run " + run.id() + ", " + crossed,
                view.name() + " has been running for " + Durations.about(took) + usual,
                facts));
    }

    private static Map<String, String> facts(RunView run) {
        Map<String, String> facts = new LinkedHashMap<>();
        facts.put("run", Long.toString(run.id()));
        facts.put("planned", run.owed().planned().toString());
        return facts;
    }
}
