package dev.brume.duties;

import dev.brume.Job;
import dev.brume.decide.PlanDecider;
import dev.brume.port.AfterEnd;
import dev.brume.port.JobAdvance;
import dev.brume.port.JobRow;
import dev.brume.port.RunRow;
import dev.brume.port.Settle;
import dev.brume.port.Transaction;
import dev.brume.schedule.Occurrence;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * Draws the consequences of ends, once each: places come free, and held runs take them.
 *
 * <p>A second transaction on purpose: the first locks nothing but the runs themselves. If the instance
 * dies between the two, the settle rows wait for anyone.
 */
final class SettleDuty {
    private final Instance instance;

    SettleDuty(Instance instance) {
        this.instance = instance;
    }

    /**
     * Settles a batch; returns how many ends it was.
     *
     * @param runs which; empty for any
     */
    int step(Set<Long> runs) {
        int limit = Math.max(runs.size(), instance.settings().batch());
        return instance.transact(tx -> settle(tx, runs, limit));
    }

    private int settle(Transaction tx, Set<Long> runs, int limit) {
        List<Settle> ends = tx.takeUnsettled(runs, limit);
        if (ends.isEmpty()) {
            return 0;
        }
        Map<Long, List<Settle>> byJob = new LinkedHashMap<>();
        ends.forEach(end ->
                byJob.computeIfAbsent(end.job(), job -> new ArrayList<>()).add(end));
        Map<Long, JobRow> jobs = tx.lockJobsById(byJob.keySet());
        List<JobAdvance> advances = new ArrayList<>();
        byJob.forEach(
                (job, ended) -> advances.add(goOn(tx, jobs.get(job), ended, freePlaces(tx, jobs.get(job), ended))));
        tx.advance(advances);
        return ends.size();
    }

    /** Where the job's schedule goes by ends and this was the one it waited for, its next occurrence is owed. */
    private JobAdvance goOn(Transaction tx, JobRow job, List<Settle> ended, JobAdvance freed) {
        Optional<Settle> awaited = job.afterEnd()
                .flatMap(AfterEnd::run)
                .flatMap(run -> ended.stream().filter(end -> end.run() == run).findFirst());
        if (awaited.isEmpty()) {
            return freed;
        }
        Job definition =
                instance.definitions().get(tx, List.of(job.versionKey())).get(job.versionKey());
        Optional<Instant> due = definition
                .byEnds()
                .flatMap(schedule -> schedule.afterEnd(awaited.get().endedAt()))
                .map(Occurrence::instant)
                .map(at -> at.isAfter(job.cursor()) ? at : job.cursor().plus(1, ChronoUnit.MICROS));
        return new JobAdvance(
                freed.id(),
                freed.cursor(),
                PlanDecider.earlier(freed.nextAt(), due),
                freed.used(),
                freed.waiting(),
                freed.lastEnd(),
                Optional.of(due.map(AfterEnd::due).orElseGet(AfterEnd::over)));
    }

    private static JobAdvance freePlaces(Transaction tx, JobRow job, List<Settle> ended) {
        Settle last = ended.stream().max(Comparator.comparing(Settle::endedAt)).orElseThrow();
        int used = Math.max(0, job.used() - ended.size());
        return letGo(
                tx,
                job,
                used,
                job.waiting(),
                Optional.of(new JobAdvance.LastEnd(last.run(), last.outcome(), last.endedAt())));
    }

    /** Gives free places of a locked job to its held runs. */
    static JobAdvance letGo(Transaction tx, JobRow job, int used, int waiting, Optional<JobAdvance.LastEnd> last) {
        int free = Math.min(job.cap() - used, waiting);
        if (free > 0) {
            Collection<Long> released =
                    tx.lockHeld(job.id(), free).stream().map(RunRow::id).toList();
            Instant now = tx.now();
            tx.letGo(released, now);
            used += released.size();
            waiting = released.size() < free ? 0 : waiting - released.size();
        }
        return new JobAdvance(job.id(), job.cursor(), job.nextAt(), used, waiting, last, Optional.empty());
    }
}
