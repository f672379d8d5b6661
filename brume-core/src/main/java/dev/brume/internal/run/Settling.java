package dev.brume.internal.run;

import dev.brume.GateKey;
import dev.brume.Job;
import dev.brume.StoreException;
import dev.brume.history.AfterEnd;
import dev.brume.history.JobRow;
import dev.brume.internal.decide.PlanDecider;
import dev.brume.internal.duty.Instance;
import dev.brume.schedule.Occurrence;
import dev.brume.spi.Awaited;
import dev.brume.spi.JobAdvance;
import dev.brume.spi.Settle;
import dev.brume.spi.Transaction;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;

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
    private final LooksAgain looks = new LooksAgain();

    public Settling(Instance instance) {
        this.instance = instance;
        this.followUps = new FollowUps(instance);
    }

    /**
     * Settles a batch; returns how many it was, not counting what is to be looked at again.
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
        looks.looked(settled.looks, instance.time().nanos());
        settled.tales.forEach(Runnable::run);
        if (settled.released > 0) {
            instance.ready();
        }
        return settled.ends;
    }

    private List<Long> worthTrying(List<Long> runs) {
        long nanos = instance.time().nanos();
        return runs.stream()
                .filter(run -> !aside.waits(run, nanos) && !looks.waits(run, nanos))
                .toList();
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

    /** Looks again at the runs that found an end under way when they came to wait, if it is time; returns how many are done with. */
    public int lookAgain() {
        long nanos = instance.time().nanos();
        List<Long> due = looks.due(nanos);
        if (due.isEmpty()) {
            return 0;
        }
        try {
            int done = settle(due);
            looks.forget(due, nanos);
            return done;
        } catch (StoreException e) {
            // A job whose row somebody keeps locked must not stop the round that looks.
            looks.looked(
                    due.stream().collect(Collectors.toMap(run -> run, run -> true)),
                    instance.time().nanos());
            instance.tellProblem("waiting runs could not be looked at again yet, will try again", e);
            return 0;
        }
    }

    /** {@return in how long {@link #lookAgain} has something to look at, if at all} */
    public Optional<Duration> untilLook() {
        return looks.next(instance.time().nanos());
    }

    /** Other instances are told of ready runs only after the commit. */
    private record Settled(int ends, int released, Map<Long, Boolean> looks, List<Runnable> tales) {
        static final Settled NOTHING = new Settled(0, 0, Map.of(), List.of());
    }

    private Settled settle(Transaction tx, Collection<Long> runs, int limit, List<Long> seen) {
        tx.mayBeForgotten();
        seen.clear();
        seen.addAll(runs.isEmpty() ? worthTrying(tx.unsettled(limit + aside.size() + looks.size())) : runs);
        List<Settle> taken = tx.takeUnsettled(seen);
        if (taken.isEmpty()) {
            return Settled.NOTHING;
        }
        List<Settle> ends =
                taken.stream().filter(settle -> settle.end().isPresent()).toList();
        Map<Long, List<Settle>> byJob = new LinkedHashMap<>();
        taken.forEach(settle -> byJob.computeIfAbsent(settle.job(), job -> new ArrayList<>()));
        ends.forEach(end -> Objects.requireNonNull(byJob.get(end.job())).add(end));
        List<GateKey> freed = ends.stream()
                .filter(end -> !end.waited())
                .flatMap(end -> end.gates().stream())
                .toList();
        Releases releases = Releases.lock(instance, tx, byJob.keySet(), freed);
        List<Long> queued = ends.stream()
                .filter(end -> end.waited() && !end.gates().isEmpty())
                .map(Settle::run)
                .toList();
        if (!queued.isEmpty()) {
            tx.gates().unqueue(queued);
        }
        releases.free(freed);
        int released = releases.letGo();
        Map<Long, JobRow> jobs = releases.write();
        List<JobAdvance> advances = new ArrayList<>();
        byJob.forEach((job, ended) -> {
            if (!ended.isEmpty()) {
                advances.add(goOn(tx, Objects.requireNonNull(jobs.get(job)), ended));
            }
        });
        tx.advance(advances);
        Map<Long, Boolean> looked = stillBusy(
                tx, taken.stream().filter(settle -> settle.end().isEmpty()).toList(), jobs);
        List<Runnable> tales = new ArrayList<>();
        int following = followUps.order(tx, ends, tales);
        int done = ends.size()
                + (int) looked.values().stream().filter(busy -> !busy).count();
        return new Settled(done, released + following, looked, tales);
    }

    /**
     * A run that still waits for a place of its job has the ends of the live runs awaited, as far as nobody holds them locked; as long as
     * somebody does, its note is written anew. Returns of each run whether that was so.
     */
    private static Map<Long, Boolean> stillBusy(Transaction tx, List<Settle> looks, Map<Long, JobRow> jobs) {
        List<JobRow> full = looks.stream()
                .map(Settle::job)
                .distinct()
                .map(jobs::get)
                .filter(Objects::nonNull)
                .filter(job -> job.waiting() > 0 && job.used() >= job.cap())
                .toList();
        Awaited awaited = full.isEmpty()
                ? Awaited.NONE
                : tx.await(full.stream().map(JobRow::id).toList());
        Set<Long> busy = full.stream()
                .filter(job -> awaited.misses(job, 0))
                .map(JobRow::id)
                .collect(Collectors.toSet());
        Map<Long, Long> again = new TreeMap<>();
        looks.stream().filter(look -> busy.contains(look.job())).forEach(look -> again.put(look.run(), look.job()));
        if (!again.isEmpty()) {
            tx.lookAgain(again);
        }
        return looks.stream().collect(Collectors.toMap(Settle::run, look -> again.containsKey(look.run())));
    }

    /** If an {@code afterEnd} schedule waited for one of these ends, its next occurrence is owed. */
    private JobAdvance goOn(Transaction tx, JobRow job, List<Settle> ended) {
        Optional<Long> newest = ended.stream().map(Settle::run).max(Comparator.naturalOrder());
        JobRow known = job.with(job.runs().ended(newest, job.runs().crowded() && job.live() > 0));
        Optional<Settle.End> awaited = job.afterEnd()
                .flatMap(AfterEnd::run)
                .flatMap(run -> ended.stream().filter(end -> end.run() == run).findFirst())
                .flatMap(Settle::end);
        if (awaited.isEmpty()) {
            return JobAdvance.of(known);
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
                .flatMap(schedule -> schedule.afterEnd(awaited.get().at()))
                .map(Occurrence::instant)
                .map(at -> at.isAfter(job.cursor()) ? at : job.cursor().plus(1, ChronoUnit.MICROS));
        return new JobAdvance(
                job.id(),
                job.cursor(),
                PlanDecider.earlier(job.nextAt(), due),
                known.runs(),
                Optional.of(due.map(AfterEnd::due).orElseGet(AfterEnd::over)));
    }
}
