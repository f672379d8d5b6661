package dev.brume.internal.plan;

import dev.brume.RunState;
import dev.brume.history.JobRow;
import dev.brume.history.NewestRuns;
import dev.brume.history.RunRow;
import dev.brume.spi.Awaited;
import dev.brume.spi.Transaction;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;

/**
 * Names the newest run of each job in a batch, once its runs are written.
 *
 * <p>A run that is alone needs nothing more: the next plan looks whether it is still live. As soon as more than one run of a job is live,
 * the ends of all of them are awaited, so that settling gives their places to those that wait. An end that is under way this very
 * moment, or was since the runs were counted, cannot be told so; if it may free the place that a run of this batch waits for, somebody
 * looks again.
 */
final class NewestOfBatch {
    private final Map<Long, JobRow> before = new HashMap<>();
    private final Map<Long, List<RunRow>> made = new TreeMap<>();

    NewestOfBatch(List<PlanItem> items, List<RunRow> runs) {
        // Within a batch an order by hand counts those before it; the lowest count is the one that was locked.
        items.forEach(item -> before.merge(item.row().id(), item.row(), (a, b) -> a.live() <= b.live() ? a : b));
        runs.forEach(run ->
                made.computeIfAbsent(run.owed().job(), job -> new ArrayList<>()).add(run));
    }

    /** The outcome for the jobs that got runs, and the runs that are to be looked at again. */
    record Result(Map<Long, NewestRuns> newest, Set<Long> lookAgain) {}

    Result write(Transaction tx) {
        List<Long> crowded = made.keySet().stream().filter(this::isCrowded).toList();
        Awaited awaited = crowded.isEmpty() ? Awaited.NONE : tx.await(crowded);
        Map<Long, NewestRuns> newest = new HashMap<>();
        made.forEach((job, runs) -> {
            NewestRuns known = row(job).runs();
            boolean over = known.newest().filter(awaited.marked()::containsKey).isEmpty();
            long last = runs.stream().mapToLong(RunRow::id).max().orElseThrow();
            newest.put(job, known.planned(last, isCrowded(job), over));
        });
        Map<Long, Long> again = new TreeMap<>();
        for (long job : crowded) {
            if (awaited.misses(row(job), Objects.requireNonNull(made.get(job)).size())) {
                waiting(job).ifPresent(run -> again.put(run, job));
            }
        }
        if (!again.isEmpty()) {
            tx.lookAgain(again);
        }
        return new Result(newest, again.keySet());
    }

    private JobRow row(long job) {
        return Objects.requireNonNull(before.get(job), "a run was made of a job that is not in the batch");
    }

    private boolean isCrowded(long job) {
        return row(job).live() + Objects.requireNonNull(made.get(job)).size() > 1;
    }

    private Optional<Long> waiting(long job) {
        return Objects.requireNonNull(made.get(job)).stream()
                .filter(run -> run.state() == RunState.WAITING)
                .map(RunRow::id)
                .findFirst();
    }
}
