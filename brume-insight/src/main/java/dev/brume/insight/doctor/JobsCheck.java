package dev.brume.insight.doctor;

import dev.brume.JobName;
import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.history.ChangeFilter;
import dev.brume.history.Ends;
import dev.brume.history.History;
import dev.brume.history.JobView;
import dev.brume.history.LastEnd;
import dev.brume.history.Pause;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.history.SessionView;
import dev.brume.history.Timeframe;
import dev.brume.insight.check.Warnings;
import dev.brume.insight.why.Aside;
import dev.brume.insight.why.Question;
import dev.brume.insight.why.TugOfWar;
import dev.brume.insight.why.WhoCould;
import dev.brume.insight.why.WhyNow;
import dev.brume.schedule.DayCalendar;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.function.Function;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** The part of a checkup that is about jobs and their runs: what does not run, hangs, waits, or fails again and again. */
final class JobsCheck {
    private static final Duration PATIENCE = Duration.ofMinutes(1);
    private static final Duration LONG = Duration.ofMinutes(1);
    private static final int FAR_LONGER = 10;
    private static final int IN_A_ROW = 3;
    private static final int ENOUGH = 5;
    private static final Duration DAY = Duration.ofDays(1);
    private static final int LIVE = 2000;
    private static final int LATELY = 20;
    private static final int MOST_SET_ASIDE = 1000;

    private final List<JobView> jobs;
    private final List<SessionView> sessions;
    private final History history;
    private final Instant now;
    private final Function<Instant, String> times;
    private final Findings found;

    JobsCheck(
            List<JobView> jobs,
            List<SessionView> sessions,
            History history,
            Instant now,
            Function<Instant, String> times,
            Findings found) {
        this.jobs = jobs;
        this.sessions = sessions;
        this.history = history;
        this.now = now;
        this.times = times;
        this.found = found;
    }

    void look() {
        boolean anyoneLives =
                sessions.stream().anyMatch(session -> !session.row().lapsedAt(now));
        if (anyoneLives) {
            overdue();
        }
        runs(anyoneLives);
        failing();
        often();
        definitions();
        setAside();
        pauses();
    }

    private String why(JobView view) {
        return new Question(history, view, now, times).aboutNow().sentence();
    }

    private static String name(JobView view) {
        return view.row().name().toString();
    }

    private void overdue() {
        List<JobView> late = jobs.stream()
                .filter(view -> view.row()
                        .nextAt()
                        .filter(at -> at.plus(PATIENCE).isBefore(now))
                        .isPresent())
                .toList();
        found.each(late, "overdue", view -> found.problem("overdue", name(view), why(view), "brume why " + name(view)));
    }

    // Live runs.

    private void runs(boolean anyoneLives) {
        Map<String, JobView> byName = new HashMap<>();
        jobs.forEach(view -> byName.put(name(view), view));
        List<RunView> running = live(RunState.RUNNING);
        orphaned(running);
        found.each(
                running.stream()
                        .flatMap(run -> Live.of(run, byName))
                        .filter(this::hangs)
                        .toList(),
                "stuck run",
                live -> found.warning(
                        "stuck run",
                        name(live.view),
                        why(live.view),
                        "look at what it waits for; brume cancel " + live.run.id()
                                + " ends it, and a timeLimit would"));
        if (anyoneLives) {
            waiting(byName);
        }
    }

    /** A run that has not ended, of a job that is defined. */
    private record Live(RunView run, JobView view) {
        static Stream<Live> of(RunView run, Map<String, JobView> byName) {
            return Optional.ofNullable(byName.get(run.job().toString())).map(view -> new Live(run, view)).stream();
        }
    }

    private List<RunView> live(RunState state) {
        return history.runs(RunFilter.newest(LIVE).withState(state));
    }

    /** Leased to a session that is over: nobody renews that, and nobody takes it over. */
    private void orphaned(List<RunView> running) {
        Set<UUID> open = sessions.stream().map(session -> session.row().id()).collect(Collectors.toSet());
        found.each(
                running.stream()
                        .filter(run -> run.lastAttempt()
                                .filter(attempt -> !open.contains(attempt.session()))
                                .isPresent())
                        .toList(),
                "orphaned run",
                run -> found.problem(
                        "orphaned run",
                        run.job().toString(),
                        "run " + run.id() + " is leased to a session that has ended (of "
                                + run.lastAttempt().orElseThrow().instance() + ")",
                        "please report it; brume cancel " + run.id() + " ends it"));
    }

    private boolean hangs(Live live) {
        Duration since = Duration.between(live.run.lastAttempt().orElseThrow().startedAt(), now);
        if (since.compareTo(LONG) < 0) {
            return false;
        }
        Optional<Duration> limit = live.view.job().longestAttempt();
        if (limit.isPresent()) {
            return since.compareTo(limit.get().plus(LONG)) > 0;
        }
        return usual(live.view)
                .filter(took -> since.compareTo(took.multipliedBy(FAR_LONGER)) > 0)
                .isPresent();
    }

    private Optional<Duration> usual(JobView view) {
        List<Duration> took = lately(view).stream()
                .flatMap(run -> run.lastAttempt().stream())
                .flatMap(attempt -> attempt.endedAt().stream().map(end -> Duration.between(attempt.startedAt(), end)))
                .sorted()
                .toList();
        return took.isEmpty() ? Optional.empty() : Optional.of(took.get(took.size() / 2));
    }

    private List<RunView> lately(JobView view) {
        return history.runs(RunFilter.newest(LATELY).of(view.row().name())).stream()
                .filter(run -> run.outcome().isPresent())
                .toList();
    }

    /** One finding a job, by its oldest run that waits. */
    private void waiting(Map<String, JobView> byName) {
        Map<String, Live> oldest = new LinkedHashMap<>();
        List<RunView> waiting = new ArrayList<>(live(RunState.PLANNED));
        waiting.addAll(live(RunState.WAITING));
        waiting.stream()
                .filter(run -> run.readyAt().plus(PATIENCE).isBefore(now))
                .sorted(Comparator.comparing(RunView::readyAt))
                .flatMap(run -> Live.of(run, byName))
                .forEach(live -> oldest.putIfAbsent(name(live.view), live));
        List<SessionView> alive =
                sessions.stream().filter(each -> !each.row().lapsedAt(now)).toList();
        found.each(
                oldest.values().stream()
                        .filter(live -> WhoCould.run(
                                        live.view.job(),
                                        alive.stream().map(SessionView::row).toList())
                                .isEmpty())
                        .toList(),
                "waiting",
                live -> found.warning(
                        "waiting",
                        name(live.view),
                        "run " + live.run.id() + " has waited since " + times.apply(live.run.readyAt()) + ": "
                                + why(live.view),
                        live.run.state().filter(RunState.WAITING::equals).isPresent()
                                ? "end what has its place, or raise the bound, key or limit"
                                : "give the lane more workers, or start an instance"));
    }

    // Ends.

    private void failing() {
        found.each(
                jobs.stream()
                        .filter(view -> view.lastEnd()
                                .map(LastEnd::outcome)
                                .filter(JobsCheck::isBad)
                                .isPresent())
                        .filter(view -> inARow(view) >= IN_A_ROW)
                        .toList(),
                "failing",
                view -> found.warning(
                        "failing",
                        name(view),
                        "its last " + inARow(view) + " runs did not succeed" + error(view),
                        "brume runs --job " + name(view) + ", brume show "
                                + view.lastEnd().orElseThrow().run()));
    }

    /** A job that succeeds now and then needs more than a look at its last runs. */
    private void often() {
        Map<Long, Ends> day = history.ends(Timeframe.between(now.minus(DAY), now));
        found.each(
                jobs.stream()
                        .filter(view -> failsOften(day.get(view.row().id())))
                        .filter(view -> inARow(view) < IN_A_ROW)
                        .toList(),
                "failing often",
                view -> found.warning(
                        "failing often",
                        name(view),
                        bad(day.get(view.row().id())) + " of the "
                                + ran(day.get(view.row().id())) + " runs of the last 24h did not succeed"
                                + error(view),
                        "brume runs --job " + name(view) + " --outcome FAILED"));
        found.each(
                jobs.stream()
                        .filter(view -> isSkipped(day.get(view.row().id())))
                        .toList(),
                "skipped often",
                view -> found.warning(
                        "skipped often",
                        name(view),
                        count(day.get(view.row().id()), Outcome.SKIPPED)
                                + " of its occurrences of the last 24h were skipped, and "
                                + ran(day.get(view.row().id())) + " ran",
                        "brume tally --from 24h --job " + name(view)
                                + " says why; brume show of one of them, what stood in its way"));
    }

    private static long count(@Nullable Ends ends, Outcome outcome) {
        return ends == null ? 0 : ends.outcomes().getOrDefault(outcome, 0L);
    }

    private static long bad(@Nullable Ends ends) {
        return count(ends, Outcome.FAILED) + count(ends, Outcome.TIMED_OUT) + count(ends, Outcome.LOST);
    }

    private static long ran(@Nullable Ends ends) {
        return bad(ends) + count(ends, Outcome.SUCCEEDED);
    }

    private static boolean failsOften(@Nullable Ends ends) {
        return ran(ends) >= ENOUGH && bad(ends) * 2 >= ran(ends);
    }

    private static boolean isSkipped(@Nullable Ends ends) {
        return count(ends, Outcome.SKIPPED) >= ENOUGH && count(ends, Outcome.SKIPPED) > ran(ends);
    }

    private static boolean isBad(Outcome outcome) {
        return outcome == Outcome.FAILED || outcome == Outcome.TIMED_OUT || outcome == Outcome.LOST;
    }

    private long inARow(JobView view) {
        return lately(view).stream()
                .filter(run -> run.outcome().get() != Outcome.SKIPPED)
                .takeWhile(run -> isBad(run.outcome().get()))
                .count();
    }

    private String error(JobView view) {
        return lately(view).stream()
                .flatMap(run -> run.lastAttempt().stream())
                .flatMap(attempt -> attempt.error().stream())
                .map(WhyNow::firstLine)
                .findFirst()
                .map(text -> ", the last with: " + text)
                .orElse("");
    }

    // Definitions.

    private void setAside() {
        Set<JobName> troubled = history
                .changes(ChangeFilter.newest(MOST_SET_ASIDE).withKind("SET_ASIDE"))
                .stream()
                .flatMap(change -> change.change().job().stream())
                .collect(Collectors.toSet());
        jobs.stream()
                .filter(view -> troubled.contains(view.row().name()))
                .forEach(view -> Aside.of(history, view.row())
                        .ifPresent(change -> found.problem(
                                "set aside",
                                name(view),
                                "cannot be planned since " + times.apply(change.at()) + ": "
                                        + change.change().text(),
                                "define it anew, or drop it; until then it is tried again from time to time, and nothing it"
                                        + " owes is forgotten")));
    }

    private void definitions() {
        for (JobView view : jobs) {
            Warnings.whetherItFires(view.job(), now).forEach(text -> found.note("definition", name(view), text, ""));
            List<String> missing = view.job().calendars().stream()
                    .filter(DayCalendar::isMissing)
                    .map(DayCalendar::name)
                    .toList();
            if (!missing.isEmpty()) {
                found.warning(
                        "calendar",
                        name(view),
                        "goes by " + String.join(", ", missing)
                                + ", which nobody has defined, so its days count as usual",
                        "define it, or correct the name");
            }
            if (TugOfWar.isOn(history, view, now)) {
                found.problem(
                        "tug-of-war",
                        name(view),
                        "its definition goes back and forth: version "
                                + view.row().version() + " is what version "
                                + (view.row().version() - 2) + " was",
                        "two instances or files disagree (brume changes --job " + name(view)
                                + "); state a rising revision: in the file");
            }
        }
    }

    private void pauses() {
        for (Pause pause : history.pauses()) {
            found.note(
                    "paused",
                    pause.scope().toString(),
                    "since " + times.apply(pause.since())
                            + pause.until()
                                    .map(end -> " until " + times.apply(end))
                                    .orElse("") + " by " + pause.who()
                            + (pause.because().isEmpty() ? "" : ", because: " + pause.because()),
                    pause.until().isPresent()
                            ? "brume resume, if it is to go on before"
                            : "brume resume, when it is to go on");
        }
    }
}
