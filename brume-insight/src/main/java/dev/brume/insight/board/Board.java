package dev.brume.insight.board;

import dev.brume.Job;
import dev.brume.Outcome;
import dev.brume.RunState;
import dev.brume.history.JobAccount;
import dev.brume.history.LineSums;
import dev.brume.history.SummedStretch;
import dev.brume.insight.tally.JobTally;
import dev.brume.insight.tally.Tally;
import dev.brume.insight.tally.TallyLine;
import dev.brume.insight.tally.Verdict;
import dev.brume.schedule.Occurrence;
import java.time.Duration;
import java.time.Instant;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/**
 * Lays out on a line of time what a job owed and what became of it, and what it is to owe. Knows no clock and no store. Stateless.
 *
 * @since 0.1.0
 */
public final class Board {
    /** Of a job that is to owe more than so many, occurrences are counted by cells rather than gone through. */
    static final int MANY = 500;

    private Board() {}

    /**
     * Lays out what is past, beside the runs that somebody ordered or that the ends of others brought about.
     *
     * @return the row; empty if the account has sums and they do not tell enough, so that the job's lines are needed
     */
    public static Optional<BoardRow> row(JobAccount account, Scale scale) {
        Cells cells = new Cells(scale);
        Set<Long> judged = new HashSet<>();
        Optional<JobTally> tally = Tally.ofSums(account, scale.from(), scale.decided(), line -> {
            line.line().map(JobAccount.Line::run).ifPresent(judged::add);
            add(cells, line);
        });
        if (tally.isEmpty() || !account.sums().stream().allMatch(stretch -> correct(cells, stretch))) {
            return Optional.empty();
        }
        account.lines().stream()
                .filter(line -> !judged.contains(line.run()))
                .filter(line ->
                        !line.planned().isBefore(scale.from()) && line.planned().isBefore(scale.until()))
                .forEach(line -> cells.add(
                        line.planned(), fate(line), Optional.of(line.run()), line.takenOver(), Duration.ZERO));
        return Optional.of(new BoardRow(account.name(), account.id(), account.dropped(), cells.all(), tally.get()));
    }

    /**
     * {@return what a job is to owe from now until the end of a scale}
     *
     * @param after behind which, exclusive, something is still to come
     * @param paused whether it is paused, so that nothing will run unless that ends
     */
    public static List<BoardCell> coming(Job job, Instant after, boolean paused, Scale scale) {
        Cells cells = new Cells(scale);
        if (!job.enabled()) {
            return List.of();
        }
        Fate fate = paused ? Fate.PAUSED : Fate.COMING;
        Instant begin = after.isBefore(scale.from()) ? scale.from() : after.plusNanos(1);
        if (!begin.isBefore(scale.until())) {
            return List.of();
        }
        if (job.timeline().count(begin, scale.until()) > MANY) {
            for (Instant from = begin;
                    from.isBefore(scale.until());
                    from = scale.cellOf(from).plus(scale.cell())) {
                Instant cellEnd = scale.cellOf(from).plus(scale.cell());
                Instant until = cellEnd.isBefore(scale.until()) ? cellEnd : scale.until();
                long count = job.timeline().count(from, until);
                if (count > 0) {
                    cells.add(job.next(from.minusNanos(1)).orElseThrow().instant(), fate, count);
                }
            }
            return cells.all();
        }
        Optional<Occurrence> next = job.next(begin.minusNanos(1));
        while (next.isPresent() && next.get().instant().isBefore(scale.until())) {
            cells.add(next.get().instant(), fate, 1);
            next = job.next(next.get().instant());
        }
        return cells.all();
    }

    private static void add(Cells cells, TallyLine line) {
        Fate fate = switch (line.verdict()) {
            case ON_TIME, LATE -> began(line);
            case SKIPPED -> Fate.SKIPPED;
            case MISSED -> Fate.MISSED;
            case PAUSED -> Fate.PAUSED;
            case WAITING, NOT_YET -> Fate.WAITING;
            case BEYOND_RETENTION -> Fate.BEYOND;
            case UNEXPLAINED -> Fate.UNEXPLAINED;
        };
        cells.add(
                line.planned(),
                fate,
                line.line().map(JobAccount.Line::run),
                line.line().filter(JobAccount.Line::takenOver).isPresent(),
                line.late().orElse(Duration.ZERO));
    }

    /** Of one that began: that it failed matters more than that it was late. */
    private static Fate began(TallyLine line) {
        Optional<Fate> own = line.line().map(Board::fate);
        if (own.filter(fate -> fate != Fate.RAN).isPresent()) {
            return own.get();
        }
        return line.verdict() == Verdict.LATE ? Fate.LATE : Fate.RAN;
    }

    private static Fate fate(JobAccount.Line line) {
        if (line.outcome().isPresent()) {
            return Fate.of(line.outcome().get());
        }
        return line.state().filter(RunState.RUNNING::equals).isPresent() ? Fate.RUNNING : Fate.WAITING;
    }

    /** {@return whether it could be said of a stretch in sums where in it something did not end well} */
    private static boolean correct(Cells cells, SummedStretch stretch) {
        LineSums sums = stretch.sums();
        long good = sums.outcomes().getOrDefault(Outcome.SUCCEEDED, 0L);
        if (good == sums.plain() && sums.takenOver() == 0) {
            return true;
        }
        if (!cells.holds(stretch.from(), stretch.until())) {
            return false;
        }
        sums.outcomes().forEach((outcome, count) -> {
            if (outcome != Outcome.SUCCEEDED) {
                cells.correct(stretch.from(), Fate.of(outcome), count);
            }
        });
        cells.takenOver(stretch.from(), sums.takenOver());
        return true;
    }
}
