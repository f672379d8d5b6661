package dev.brume.internal.run;

import dev.brume.GateKey;
import dev.brume.Job;
import dev.brume.StoreException;
import dev.brume.history.AfterEnd;
import dev.brume.history.JobRow;
import dev.brume.history.LastEnd;
import dev.brume.internal.decide.PlanDecider;
import dev.brume.internal.duty.Instance;
import dev.brume.schedule.Occurrence;
import dev.brume.spi.JobAdvance;
import dev.brume.spi.Settle;
import dev.brume.spi.Transaction;
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
public final class Settling {
    private final Instance instance;
    private final FollowUps followUps;
    private final SetAside<Long> aside = new SetAside<>();

    public Settling(Instance instance) {
        this.instance = instance;
        this.followUps = new FollowUps(instance);
    }

    /**
     * Settles a batch; returns how many ends it was.
     *
     * @param runs which; empty for any
     */
    public int settle(Collection<Long> runs) {
        int limit = Math.max(runs.size(), instance.settings().batch());
        List<Long> seen = new ArrayList<>();
        try {
            int ends = settle(runs, limit, seen);
            seen.forEach(aside::worked);
            return ends;
        } catch (RuntimeException | StackOverflowError e) {
            if (!SetAside.isOfOne(e) || seen.isEmpty()) {
                throw e;
            }
            return oneByOne(List.copyOf(seen));
        }
    }

    private int settle(Collection<Long> runs, int limit, List<Long> seen) {
        Settled settled = instance.transact(tx -> settle(tx, runs, limit, seen));
        settled.tales.forEach(Runnable::run);
        if (settled.released > 0) {
            instance.ready();
        }
        return settled.ends;
    }

    private List<Long> worthTrying(List<Long> runs) {
        long nanos = instance.time().nanos();
        return runs.stream().filter(run -> !aside.waits(run, nanos)).toList();
    }

    /** One end whose consequences cannot be drawn holds up neither the others nor anything that comes after settling. */
    private int oneByOne(List<Long> runs) {
        return aside.oneByOne(
                runs,
                run -> run,
                instance.time()::nanos,
                run -> settle(List.of(run), 1, new ArrayList<>()),
                (run, verdict) -> instance.tellProblem("the end of run " + run
                        + " cannot be settled and is set aside, the others go on: " + verdict.reason()));
    }

    /** Lets whoever waits at gates go where there is room, since places were added. */
    public void releaseAt(Set<GateKey> gates) {
        instance.transact(tx -> {
            Releases releases = Releases.lock(tx, Set.of(), gates);
            int released = releases.letGo();
            List<JobAdvance> advances =
                    releases.write().values().stream().map(JobAdvance::of).toList();
            if (released > 0) {
                tx.advance(advances);
            }
            return released;
        });
    }

    /** Lets held runs of jobs go where there is room. */
    public void release(Collection<Long> jobs) {
        instance.transact(tx -> {
            Releases releases = Releases.lock(tx, jobs, List.of());
            releases.letGo();
            tx.advance(releases.write().values().stream().map(JobAdvance::of).toList());
            return null;
        });
    }

    /** Other instances are told of ready runs only after the commit. */
    private record Settled(int ends, int released, List<Runnable> tales) {}

    private Settled settle(Transaction tx, Collection<Long> runs, int limit, List<Long> seen) {
        tx.mayBeForgotten();
        seen.clear();
        seen.addAll(runs.isEmpty() ? worthTrying(tx.unsettled(limit + aside.size())) : runs);
        List<Settle> ends = tx.takeUnsettled(seen);
        if (ends.isEmpty()) {
            return new Settled(0, 0, List.of());
        }
        Map<Long, List<Settle>> byJob = new LinkedHashMap<>();
        ends.forEach(end ->
                byJob.computeIfAbsent(end.job(), job -> new ArrayList<>()).add(end));
        List<GateKey> freed = ends.stream()
                .filter(end -> !end.waited())
                .flatMap(end -> end.gates().stream())
                .toList();
        Releases releases = Releases.lock(tx, byJob.keySet(), freed);
        byJob.forEach((job, ended) -> {
            int held = (int) ended.stream().filter(Settle::waited).count();
            releases.free(job, ended.size() - held, held);
        });
        List<Long> queued = ends.stream()
                .filter(end -> end.waited() && !end.gates().isEmpty())
                .map(Settle::run)
                .toList();
        if (!queued.isEmpty()) {
            tx.gates().unqueue(queued);
        }
        releases.free(freed);
        int released = releases.letGo();
        List<JobAdvance> advances = new ArrayList<>();
        releases.write().values().forEach(job -> advances.add(goOn(tx, job, byJob.getOrDefault(job.id(), List.of()))));
        tx.advance(advances);
        List<Runnable> tales = new ArrayList<>();
        int following = followUps.order(tx, ends, tales);
        return new Settled(ends.size(), released + following, tales);
    }

    /** If an {@code afterEnd} schedule waited for this end, its next occurrence is owed. */
    private JobAdvance goOn(Transaction tx, JobRow job, List<Settle> ended) {
        Optional<LastEnd> last = ended.stream()
                .max(Comparator.comparing(Settle::endedAt))
                .map(end -> new LastEnd(end.run(), end.outcome(), end.endedAt()));
        Optional<Settle> awaited = job.afterEnd()
                .flatMap(AfterEnd::run)
                .flatMap(run -> ended.stream().filter(end -> end.run() == run).findFirst());
        if (awaited.isEmpty()) {
            return advance(job, job.nextAt(), last, Optional.empty());
        }
        Job definition =
                instance.definitions().get(tx, List.of(job.versionKey())).get(job.versionKey());
        if (definition == null) {
            instance.tellUnreadable(job.name().toString());
            throw new StoreException(
                    StoreException.Trouble.OTHER, job.name() + " is left to newer instances", /* cause= */ null);
        }
        Optional<Instant> due = definition
                .byEnds()
                .flatMap(schedule -> schedule.afterEnd(awaited.get().endedAt()))
                .map(Occurrence::instant)
                .map(at -> at.isAfter(job.cursor()) ? at : job.cursor().plus(1, ChronoUnit.MICROS));
        return advance(
                job,
                PlanDecider.earlier(job.nextAt(), due),
                last,
                Optional.of(due.map(AfterEnd::due).orElseGet(AfterEnd::over)));
    }

    private static JobAdvance advance(
            JobRow job, Optional<Instant> nextAt, Optional<LastEnd> last, Optional<AfterEnd> afterEnd) {
        return new JobAdvance(job.id(), job.cursor(), nextAt, job.used(), job.waiting(), last, afterEnd);
    }
}
