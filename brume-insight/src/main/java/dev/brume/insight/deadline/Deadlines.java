package dev.brume.insight.deadline;

import dev.brume.Attempt;
import dev.brume.Deadline;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Origin;
import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.history.History;
import dev.brume.history.JobView;
import dev.brume.history.PauseMark;
import dev.brume.history.Progress;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.insight.tally.Chains;
import dev.brume.insight.tally.Verdict;
import dev.brume.schedule.Occurrence;
import java.time.Duration;
import java.time.Instant;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;

/**
 * Works out how it stands with deadlines, by what has ended and by how long runs usually take. Confined to one thread.
 *
 * @since 0.1.0
 */
public final class Deadlines {
    private static final Duration BACK = Duration.ofDays(2);
    private static final Duration CHAINS_FRESH = Duration.ofMinutes(1);
    private static final int MOST_RUNS = 50;
    private static final int LEAST_PERCENT = 5;
    private static final double USUAL = 0.5;

    private final PastDurations durations = new PastDurations();
    private Chains chains = Chains.of(List.of());
    private Optional<Instant> chainsReadAt = Optional.empty();

    /** Creates it, knowing nothing yet. */
    public Deadlines() {
        // What it has read it keeps for a while.
    }

    /** {@return how it stands with the deadline of a job; empty if it has none, or nothing was due lately, or that was paused or left out} */
    public Optional<Forecast> of(History history, JobView view, Instant now) {
        Optional<Deadline> deadline = view.job().endBy();
        if (deadline.isEmpty()) {
            return Optional.empty();
        }
        List<JobView> chain = chain(history, view, now);
        if (chain.isEmpty()) {
            return Optional.empty();
        }
        Job first = chain.get(0).job();
        Instant stated = chain.stream()
                .map(JobView::definedAt)
                .max(Comparator.naturalOrder())
                .orElseThrow();
        return due(history, first, now)
                .filter(found -> found.instant().isAfter(stated))
                .flatMap(occurrence -> {
                    Instant by = deadline.get().of(occurrence.instant(), occurrence.zone());
                    return stand(history, chain, occurrence.instant(), by, now);
                });
    }

    /** The occurrence that was due last, or an earlier one that still goes on. */
    private static Optional<Occurrence> due(History history, Job job, Instant now) {
        if (!job.enabled()) {
            return Optional.empty();
        }
        Optional<Occurrence> last = job.timeline()
                .previous(now.plusNanos(1000))
                .filter(found -> found.instant().isAfter(now.minus(BACK)));
        Optional<Instant> oldest = Stream.of(RunState.RUNNING, RunState.BACKING_OFF, RunState.PLANNED, RunState.WAITING)
                .flatMap(
                        state -> history
                                .runs(RunFilter.newest(MOST_RUNS)
                                        .of(job.name())
                                        .withState(state)
                                        .withOrigin(Origin.SCHEDULE))
                                .stream())
                .map(run -> run.owed().planned())
                .min(Comparator.naturalOrder());
        return oldest.flatMap(planned -> job.timeline().previous(planned.plusNanos(1000)))
                .or(() -> last);
    }

    /** The jobs that run one after the other up to this one, beginning with the one that a schedule begins; empty if one is gone. */
    private List<JobView> chain(History history, JobView last, Instant now) {
        if (!last.job().schedules().isEmpty()) {
            return List.of(last);
        }
        if (chainsReadAt.filter(at -> at.plus(CHAINS_FRESH).isAfter(now)).isEmpty()) {
            chains = Chains.of(history.jobs());
            chainsReadAt = Optional.of(now);
        }
        List<JobName> names = chains.upTo(last.name());
        List<JobView> found = names.stream()
                .flatMap(name -> (name.equals(last.name()) ? Optional.of(last) : history.job(name)).stream())
                .toList();
        return found.size() == names.size() ? found : List.of();
    }

    /** Where a job of the chain is. */
    private record Step(Optional<Instant> end, boolean ended, boolean failed, Optional<RunView> run) {}

    private Optional<Forecast> stand(
            History history, List<JobView> chain, Instant planned, Instant deadline, Instant now) {
        Optional<RunView> run = runOf(history, chain.get(0).name(), planned);
        if (run.isEmpty() && isLeftOut(history, chain.get(0), planned)) {
            return Optional.empty();
        }
        Step step =
                step(history, chain.get(0).name(), run, Optional.of(later(planned, now)), /* hopeless= */ false, now);
        Optional<String> waitsFor = Optional.empty();
        boolean leftOut = run.filter(Deadlines::isLeftOut).isPresent();
        for (int i = 1; i < chain.size(); i++) {
            JobName name = chain.get(i).name();
            if (!step.ended && waitsFor.isEmpty()) {
                waitsFor = Optional.of(chain.get(i - 1).name() + howFar(step));
            }
            Optional<RunView> next = step.run.flatMap(parent -> childOf(history, name, parent, planned));
            step = step(history, name, next, step.end, step.failed, now);
            leftOut |= next.filter(Deadlines::isLeftOut).isPresent();
        }
        return leftOut
                ? Optional.empty()
                : Optional.of(new Forecast(planned, deadline, step.end, state(step, deadline, now), waitsFor));
    }

    private static boolean isLeftOut(RunView run) {
        return Verdict.isLeftOut(run.outcome(), run.reason());
    }

    /** Whether the job is paused, or a span tells that an occurrence without a run was paused or skipped. */
    private static boolean isLeftOut(History history, JobView view, Instant planned) {
        RunFilter filter = RunFilter.newest(1).of(view.name()).from(planned).until(planned.plusNanos(1000));
        return view.row().pause().state() != PauseMark.State.NONE
                || history.spans(filter).stream()
                        .anyMatch(span -> Verdict.ofReason(span.span().reason()) != Verdict.MISSED);
    }

    private static Forecast.State state(Step step, Instant deadline, Instant now) {
        if (step.ended && !step.failed) {
            boolean met = step.end.filter(end -> !end.isAfter(deadline)).isPresent();
            return met ? Forecast.State.MET : Forecast.State.MISSED;
        }
        if (!deadline.isAfter(now)) {
            return Forecast.State.MISSED;
        }
        boolean late = step.end.filter(end -> end.isAfter(deadline)).isPresent();
        return step.failed || late ? Forecast.State.AT_RISK : Forecast.State.IN_TIME;
    }

    private static Instant later(Instant a, Instant b) {
        return a.isAfter(b) ? a : b;
    }

    private static Optional<RunView> runOf(History history, JobName job, Instant planned) {
        return history.runs(RunFilter.newest(MOST_RUNS).of(job).from(planned).until(planned.plusNanos(1000))).stream()
                .findFirst();
    }

    private static Optional<RunView> childOf(History history, JobName job, RunView parent, Instant planned) {
        return history.runs(RunFilter.newest(MOST_RUNS).of(job).from(planned)).stream()
                .filter(run -> run.owed().parent().equals(Optional.of(parent.id())))
                .findFirst();
    }

    /**
     * Where a job is.
     *
     * @param begins when it will begin, as far as that can be told, if it has no run yet
     * @param hopeless whether it will never begin, since what comes before it has failed
     */
    private Step step(
            History history,
            JobName job,
            Optional<RunView> run,
            Optional<Instant> begins,
            boolean hopeless,
            Instant now) {
        Optional<Duration> usual = durations.percentile(history, job, now, USUAL);
        if (run.isEmpty()) {
            return new Step(begins.flatMap(at -> usual.map(at::plus)), /* ended= */ false, hopeless, run);
        }
        RunView found = run.get();
        Optional<Attempt> last = found.attempts().stream().reduce((a, b) -> b);
        if (found.outcome().isPresent()) {
            boolean failed = found.outcome().get() != Outcome.SUCCEEDED;
            return new Step(last.flatMap(Attempt::endedAt), /* ended= */ true, failed, run);
        }
        boolean runs = found.state().filter(RunState.RUNNING::equals).isPresent();
        Optional<Instant> end = runs
                ? last.flatMap(
                        attempt -> running(attempt.startedAt(), found.progress(), durations.of(history, job, now), now))
                : usual.map(length -> later(found.readyAt(), now).plus(length));
        return new Step(end, /* ended= */ false, /* failed= */ false, run);
    }

    /**
     * By what it says itself if it says so, else by those of its past runs that took longer than it has until now; one that takes longer than all of
     * them is taken to need a quarter as long again.
     */
    private static Optional<Instant> running(
            Instant since, Optional<Progress> progress, List<Duration> past, Instant now) {
        Duration gone = Duration.between(since, now);
        Optional<Integer> percent =
                progress.map(Progress::percent).filter(done -> done >= LEAST_PERCENT && done <= 100);
        if (percent.isPresent()) {
            return Optional.of(since.plus(gone.multipliedBy(100).dividedBy(percent.get())));
        }
        if (past.isEmpty()) {
            return Optional.empty();
        }
        List<Duration> longer =
                past.stream().filter(each -> each.compareTo(gone) > 0).toList();
        return Optional.of(longer.isEmpty() ? now.plus(gone.dividedBy(4)) : since.plus(longer.get(longer.size() / 2)));
    }

    private static String howFar(Step step) {
        if (step.run.isEmpty()) {
            return ", which has not begun";
        }
        RunView run = step.run.get();
        return run.progress()
                .map(progress -> ", " + progress.percent() + " % done")
                .or(() -> run.state().map(state -> ", which is " + state))
                .orElse("");
    }
}
