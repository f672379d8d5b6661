package dev.brume.insight.past;

import dev.brume.Attempt;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.RunState;
import dev.brume.history.History;
import dev.brume.history.JobAccount;
import dev.brume.history.JobFilter;
import dev.brume.history.JobRow;
import dev.brume.history.JobView;
import dev.brume.history.LastEnd;
import dev.brume.history.NewestRuns;
import dev.brume.history.Past;
import dev.brume.history.Pause;
import dev.brume.history.PauseMark;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.history.Timeframe;
import dev.brume.schedule.Occurrence;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.function.Predicate;

/** The jobs that there were at an instant, by the names that they had. */
final class PastJobs {
    /** How many runs of a job before the instant tell how the last one ended, and what was live. */
    private static final int LATELY = 50;

    private final History history;
    private final Past past;
    private final Map<JobName, Known> all = new TreeMap<>();

    /**
     * What is known of a job.
     *
     * @param name it has now
     * @param version of its definition that was in force
     */
    private record Known(long id, JobName name, JobAccount.Version version) {}

    PastJobs(History history, Past past, Renamings renamings) {
        this.history = history;
        this.past = past;
        // Nothing was planned within the instant behind it, so that no lines are read.
        history.accounts(
                Timeframe.between(after(), after().plus(1, ChronoUnit.MICROS)),
                account -> account.versions().stream()
                        .filter(version -> !version.after().isAfter(past.at()))
                        .max(Comparator.comparing(JobAccount.Version::number))
                        .ifPresent(version -> all.put(
                                renamings.before(account.name()), new Known(account.id(), account.name(), version))));
    }

    private Instant after() {
        return past.at().plus(1, ChronoUnit.MICROS);
    }

    int count() {
        return all.size();
    }

    /** {@return the name that a job has now} */
    Optional<JobName> nameNow(JobName then) {
        return Optional.ofNullable(all.get(then)).map(Known::name);
    }

    /** {@return the definition that a run goes by} */
    Optional<Job> definition(RunView run) {
        return Optional.ofNullable(all.get(run.job()))
                .map(known -> known.version.number() == run.version()
                        ? known.version.job()
                        : history.version(known.name, run.version()).orElse(known.version.job()));
    }

    Optional<JobView> job(JobName then) {
        return Optional.ofNullable(all.get(then)).map(known -> view(then, known, runs(known)));
    }

    /** {@return the first that a filter finds, in its order} */
    List<JobView> find(JobFilter filter) {
        Predicate<JobView> plain = withoutEnds(filter).test();
        Predicate<JobView> test = filter.test();
        List<JobView> like = all.entrySet().stream()
                .map(each -> view(each.getKey(), each.getValue(), List.of()))
                .filter(plain)
                .filter(filter.behind(
                        then -> Optional.ofNullable(all.get(then)).map(known -> view(then, known, List.of()))))
                .sorted(filter.order().comparator())
                .toList();
        return like.stream()
                .flatMap(view -> job(view.name()).stream())
                .filter(test)
                .limit(filter.limit())
                .toList();
    }

    /** Runs are looked for only of jobs that are like the rest of the filter. */
    private static JobFilter withoutEnds(JobFilter filter) {
        JobFilter plain = JobFilter.first(filter.limit());
        plain = filter.name().map(plain::named).orElse(plain);
        plain = filter.namespaces().isEmpty() ? plain : plain.within(filter.namespaces());
        plain = filter.tag().map(plain::withTag).orElse(plain);
        plain = filter.followedBy().map(plain::followedBy).orElse(plain);
        return filter.paused() ? plain.thatArePaused() : plain;
    }

    private List<RunView> runs(Known known) {
        return history.runs(RunFilter.newest(LATELY).of(known.name).until(after())).stream()
                .filter(run -> run.owed().job() == known.id)
                .flatMap(run -> PastRun.at(run, past.at(), past.waiting()).stream())
                .toList();
    }

    private JobView view(JobName name, Known known, List<RunView> runs) {
        Job job = named(known.version.job(), name);
        PauseMark mark = PauseMark.of(Pause.covering(past.pauses(), job), past.at());
        int live = (int) runs.stream().filter(run -> run.state().isPresent()).count();
        int waiting = (int) runs.stream()
                .filter(run -> run.state().filter(RunState.WAITING::equals).isPresent())
                .count();
        JobRow row = new JobRow(
                known.id,
                name,
                known.version.number(),
                known.version.source(),
                past.at(),
                mark.due(job.next(past.at()).map(Occurrence::instant)),
                live - waiting,
                job.ifBusy().places(),
                waiting,
                NewestRuns.NONE,
                Optional.empty(),
                /* dropped= */ false,
                mark);
        return new JobView(row, job, known.version.after(), lastEnd(runs));
    }

    /** A version is kept under the name that its job has now. */
    private static Job named(Job job, JobName name) {
        return job.name().equals(name) ? job : job.afterRenaming(job.name(), name);
    }

    private static Optional<LastEnd> lastEnd(List<RunView> runs) {
        return runs.stream()
                .filter(run -> run.outcome().isPresent())
                .map(run -> new LastEnd(
                        run.id(),
                        run.outcome().orElseThrow(),
                        run.lastAttempt()
                                .flatMap(Attempt::endedAt)
                                .or(run::recordedAt)
                                .orElse(run.readyAt())))
                .max(Comparator.comparing(LastEnd::at).thenComparing(LastEnd::run));
    }
}
