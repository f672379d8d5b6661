package dev.brume.http.internal.resource;

import dev.brume.Origin;
import dev.brume.definitions.Subject;
import dev.brume.definitions.Views;
import dev.brume.history.AfterEnd;
import dev.brume.history.JobView;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.history.SpanView;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Pages;
import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Reply;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.Zones;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;

/** What a job owes in a period, and what became of it. */
final class OccurrenceList {
    private static final Duration AHEAD = Duration.ofDays(7);
    private static final Duration LONGEST = Duration.ofDays(3660);

    private final Call call;
    private final JobView view;
    private final Instant now;

    private OccurrenceList(Call call) {
        this.call = call;
        this.view = call.job();
        this.now = call.history().now();
    }

    static Reply reply(Call call) {
        return new OccurrenceList(call).reply();
    }

    private Reply reply() {
        Instant from = call.get(Shared.FROM).orElse(now);
        Instant until = call.get(Shared.UNTIL).orElseGet(() -> from.plus(AHEAD));
        if (!from.isBefore(until)) {
            throw Problem.ofParameter(Shared.UNTIL.name(), until + " is not after from, which is " + from);
        }
        if (Duration.between(from, until).compareTo(LONGEST) > 0) {
            throw Problem.ofParameter(
                    Shared.UNTIL.name(),
                    "the period is longer than " + LONGEST.toDays() + " days; ask for it in parts");
        }
        int limit = Pages.limit(call);
        List<Map<String, Object>> all = new ArrayList<>(past(from, until, limit));
        Instant begin = from.isAfter(now) ? from : now;
        if (begin.isBefore(until) && all.size() < limit) {
            Subject subject = Subject.of(view.job(), view.row().afterEnd().flatMap(AfterEnd::due));
            subject.between(begin, until)
                    .limit((long) limit - all.size())
                    .map(each -> entry(Views.occurrence(each), Optional.empty(), Optional.empty()))
                    .forEach(all::add);
        }
        return Reply.json(all);
    }

    /** What was owed by the version that was in force: each has a run, a line of its own, or lies in a span. */
    private List<Map<String, Object>> past(Instant from, Instant until, int limit) {
        Instant end = until.isBefore(now) ? until : now;
        if (!from.isBefore(end)) {
            return List.of();
        }
        RunFilter filter = RunFilter.newest(10_000).of(view.name()).from(from).until(end);
        TreeMap<Instant, Map<String, Object>> found = new TreeMap<>();
        Map<Integer, Optional<Subject>> versions = new HashMap<>();
        for (SpanView span : call.history().spans(filter)) {
            versions.computeIfAbsent(
                            span.span().version(),
                            number -> call.history()
                                    .version(view.name(), number)
                                    .map(job -> Subject.of(job, Optional.empty())))
                    .ifPresent(subject -> subject.between(
                                    latest(from, span.span().from()),
                                    earliest(end, span.span().until()))
                            .limit(limit)
                            .forEach(each -> found.put(
                                    each.instant(),
                                    entry(
                                            Views.occurrence(each),
                                            Optional.empty(),
                                            Optional.of(span.span().reason())))));
        }
        for (RunView run : call.history().runs(filter)) {
            if (run.owed().origin() == Origin.SCHEDULE || run.owed().origin() == Origin.CATCH_UP) {
                found.put(run.owed().planned(), entry(occurrence(run), Optional.of(run), run.reason()));
            }
        }
        return found.values().stream().limit(limit).toList();
    }

    private static Instant latest(Instant one, Instant other) {
        return one.isAfter(other) ? one : other;
    }

    private static Instant earliest(Instant one, Instant other) {
        return one.isBefore(other) ? one : other;
    }

    private static Map<String, Object> occurrence(RunView run) {
        Map<String, Object> view = Views.occurrence(new Occurrence(
                run.owed().planned(),
                run.owed().nominal(),
                Zones.parse(run.owed().zone()),
                Set.of()));
        view.put("notes", Views.run(run).get("notes"));
        return view;
    }

    private static Map<String, Object> entry(
            Map<String, Object> occurrence, Optional<RunView> run, Optional<String> reason) {
        Map<String, Object> entry = new LinkedHashMap<>(occurrence);
        entry.putAll(Views.object(
                "run", run.map(each -> String.valueOf(each.id())),
                "state", run.flatMap(RunView::state),
                "outcome", run.flatMap(RunView::outcome),
                "reason", reason));
        return entry;
    }
}
