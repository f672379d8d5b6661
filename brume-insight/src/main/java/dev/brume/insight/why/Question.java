package dev.brume.insight.why;

import dev.brume.JobName;
import dev.brume.history.ChangeView;
import dev.brume.history.History;
import dev.brume.history.JobAccount;
import dev.brume.history.JobFilter;
import dev.brume.history.JobView;
import dev.brume.history.Pause;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.history.Timeframe;
import dev.brume.insight.deadline.Deadlines;
import dev.brume.insight.deadline.Forecast;
import dev.brume.schedule.Durations;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/**
 * Reads what is on record around a job, and asks. Confined to one thread.
 *
 * @since 0.1.0
 */
public final class Question {
    private static final int RUNS = 200;
    private static final Duration BEFORE = Duration.ofDays(1);

    private final History history;
    private final JobView view;
    private final Instant now;
    private final Function<Instant, String> times;
    private @Nullable List<RunView> newest;

    /**
     * Creates one.
     *
     * @param history to read
     * @param view the job
     * @param now the database's clock
     * @param times writes an instant for the reader
     */
    public Question(History history, JobView view, Instant now, Function<Instant, String> times) {
        this.history = history;
        this.view = view;
        this.now = now;
        this.times = times;
    }

    /** {@return the newest runs of the job, on which answers rest; read once} */
    public List<RunView> newest() {
        if (newest == null) {
            newest = history.runs(RunFilter.newest(RUNS).of(key()));
        }
        return newest;
    }

    /** Asks why the job runs, waits or does nothing now. */
    public Answer aboutNow() {
        Answer usual = WhyNow.of(situation(newest()));
        Answer answer = Aside.of(history, view.row())
                .map(change -> setAside(usual, change))
                .orElse(usual);
        return withPromises(
                TugOfWar.isOn(history, view, now)
                        ? answer.with(new Answer.Fact(
                                "tug-of-war",
                                "version " + view.row().version() + " is what version "
                                        + (view.row().version() - 2)
                                        + " was: two instances or files disagree about its definition (brume changes --job "
                                        + key() + "); state a rising revision: in the file"))
                        : answer);
    }

    /** What it promises stands beside the answer: its deadline, and how long it may go without a success. */
    private Answer withPromises(Answer answer) {
        Answer all = answer;
        Optional<Forecast> forecast = new Deadlines().of(history, view, now);
        if (forecast.isPresent()) {
            String name = view.name().toString();
            all = all.with(
                    new Answer.Fact("deadline", forecast.get().words(name, now).substring(name.length() + 1)));
        } else if (view.job().endBy().isPresent()) {
            all = all.with(new Answer.Fact("deadline", view.job().endBy().get().toString()));
        }
        if (view.job().successWithin().isPresent()) {
            all = all.with(new Answer.Fact(
                    "silence",
                    "it may go " + Durations.format(view.job().successWithin().get()) + " without a success"));
        }
        return all;
    }

    private Answer setAside(Answer other, ChangeView change) {
        return Answer.of(
                        Answer.Code.SET_ASIDE,
                        Optional.of(change.at()),
                        "It cannot be planned and has been set aside since " + times.apply(change.at()) + ": "
                                + change.change().text()
                                + " (define it anew or drop it; what it owes is not forgotten).")
                .on(other.facts());
    }

    /** Asks what became of the occurrence at an instant, or less than a minute before. */
    public Answer about(Instant then) {
        RunFilter around =
                RunFilter.newest(RUNS).of(key()).from(then.minus(BEFORE)).until(then.plusSeconds(1));
        List<JobAccount> accounts = new ArrayList<>();
        Timeframe shortly = Timeframe.between(then.minus(Duration.ofMinutes(2)), then.plus(1, ChronoUnit.MICROS));
        history.accounts(shortly.of(key()), account -> {
            if (account.id() == view.row().id()) {
                accounts.add(account);
            }
        });
        return WhyThen.of(situation(withLive(history.runs(around))), accounts.get(0), then, pausedAt(then));
    }

    /** The pause of that time: those in force do not tell it any more. */
    private Optional<String> pausedAt(Instant then) {
        return Pause.covering(history.past(then).pauses(), view.job()).stream()
                .findFirst()
                .map(pause -> pause.who() + " had paused " + pause.scope()
                        + (pause.because().isEmpty() ? "" : ", because: " + pause.because()));
    }

    private JobName key() {
        return view.row().name();
    }

    /** A live run may have been planned long before. */
    private List<RunView> withLive(List<RunView> runs) {
        Map<Long, RunView> all = new LinkedHashMap<>();
        runs.forEach(run -> all.put(run.id(), run));
        newest().stream().filter(run -> run.state().isPresent()).forEach(run -> all.putIfAbsent(run.id(), run));
        return List.copyOf(all.values());
    }

    private Situation situation(List<RunView> runs) {
        List<String> followed = history.jobs(JobFilter.first(Integer.MAX_VALUE).followedBy(key())).stream()
                .map(other -> other.row().name().toString())
                .toList();
        return new Situation(
                now,
                view,
                history.sessions(/* ended= */ true),
                runs,
                history.pauses(),
                history.gates(),
                followed,
                times);
    }
}
