package dev.brume.insight.internal;

import dev.brume.AttemptEnd;
import dev.brume.EngineListener;
import dev.brume.Failure;
import dev.brume.Job;
import dev.brume.StopReason;
import dev.brume.Work;
import dev.brume.internal.duty.Duty;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.duty.Settings;
import dev.brume.internal.retention.SweepDuty;
import dev.brume.internal.round.RoundDuty;
import dev.brume.internal.run.FinishDuty;
import dev.brume.internal.run.SettleDuty;
import dev.brume.internal.session.RenewDuty;
import dev.brume.internal.telling.TellDuty;
import dev.brume.notice.Sender;
import dev.brume.notice.Watch;
import dev.brume.spi.Completion;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.Store;
import dev.brume.spi.WorkerPool;
import java.time.Duration;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.SplittableRandom;
import java.util.UUID;

/**
 * One life of an instance in virtual time: the duties of the engine, and workers that are busy for as long as it is said.
 * Confined to one thread.
 */
public final class VirtualInstance implements WorkerPool {
    /** Two instances never look at exactly the same moment, so that work is spread over them as it would be. */
    private static final long JITTER = 900_000L;

    private final VirtualTime time;
    private final Labour labour;
    private final SplittableRandom random;
    private final Instance instance;
    private final RenewDuty keep;
    private final RoundDuty round;
    private final FinishDuty finish;
    private final SettleDuty settle;
    private final SweepDuty sweep;
    private final Optional<TellDuty> tell;
    private long tellPlanned = Long.MAX_VALUE;
    private long tells;
    private final Map<String, Integer> busy = new HashMap<>();
    private final Map<Long, Working> working = new HashMap<>();
    private long roundPlanned = Long.MAX_VALUE;
    private long rounds;
    private boolean gone;

    private record Working(LeasedRun run, long begun, Effort effort) {}

    VirtualInstance(
            Settings settings,
            Store store,
            VirtualTime time,
            Labour labour,
            EngineListener listener,
            SplittableRandom random,
            Runnable whenReady,
            Optional<Telling> telling) {
        this.time = time;
        this.labour = labour;
        this.random = random;
        instance = new Instance(settings, store, time, listener);
        instance.workers(this);
        instance.handlers().addAll(List.of(Work.PROGRAMS, Work.REQUESTS));
        instance.whenReady(whenReady);
        keep = new RenewDuty(instance, () -> new UUID(random.nextLong(), random.nextLong()));
        round = new RoundDuty(instance);
        settle = new SettleDuty(instance);
        finish = new FinishDuty(instance, () -> {});
        sweep = new SweepDuty(instance);
        tell = telling.map(how -> new TellDuty(instance, List.of(how.sender()), how.watch(), Runnable::run, () -> {}));
        instance.whenNotable(() -> tellIn(0));
    }

    /**
     * How it tells.
     *
     * @param sender takes all that is sent
     * @param watch looks for what does not happen by itself
     */
    public record Telling(Sender sender, Optional<Watch> watch) {}

    /** A look that comes sooner takes the place of the one that was planned. */
    private void tellIn(long delay) {
        long at = time.nanos() + delay;
        if (tell.isPresent() && !gone && at < tellPlanned) {
            tellPlanned = at;
            long number = ++tells;
            time.after(delay, () -> {
                if (!gone && number == tells) {
                    tellPlanned = Long.MAX_VALUE;
                    tellIn(tell.get().step().toNanos());
                }
            });
        }
    }

    /** Lets it have the handlers that jobs need, whatever they are called. */
    public VirtualInstance knowing(Collection<Job> jobs) {
        jobs.forEach(job -> {
            instance.handlers().add(job.work().needs());
            instance.handlers().add(job.needs());
        });
        return this;
    }

    void start() {
        keepOn();
        sweepOn();
        tellIn(0);
        look();
    }

    private void sweepOn() {
        if (!gone) {
            time.after(sweep.step().toNanos(), this::sweepOn);
        }
    }

    /** {@return whether it lives} */
    public boolean lives() {
        return !gone;
    }

    /** {@return how many attempts it carries out} */
    public int attempts() {
        return working.size();
    }

    private void keepOn() {
        if (!gone) {
            time.after(keep.step().toNanos(), this::keepOn);
        }
    }

    /** Looks for work at once, from the beginning. */
    void look() {
        round.called();
        lookIn(0);
    }

    /** A look that comes sooner takes the place of the one that was planned. */
    private void lookIn(long delay) {
        long at = time.nanos() + delay + random.nextLong(JITTER);
        if (at < roundPlanned) {
            roundPlanned = at;
            long number = ++rounds;
            time.after(at - time.nanos(), () -> {
                if (!gone && number == rounds) {
                    roundPlanned = Long.MAX_VALUE;
                    lookIn(untilIdle(round).toNanos());
                }
            });
        }
    }

    private static Duration untilIdle(Duty duty) {
        Duration rest = duty.step();
        while (rest.isZero()) {
            rest = duty.step();
        }
        return rest;
    }

    /** Dies: whatever it holds is left to lapse. */
    public void die() {
        gone = true;
        working.clear();
    }

    /** Stops in good order: what it works on is given back. */
    public void leave() {
        if (!gone) {
            instance.drain();
            Map.copyOf(working).keySet().forEach(run -> end(run, AttemptEnd.HANDED_BACK, "the instance was stopping"));
            keep.close();
            gone = true;
        }
    }

    // Workers.

    @Override
    public int free(String lane) {
        return instance.settings().lanes().getOrDefault(lane, 0) - busy.getOrDefault(lane, 0);
    }

    @Override
    public void start(LeasedRun run) {
        busy.merge(run.job().lane(), 1, Integer::sum);
        Effort effort = labour.of(run);
        Optional<Duration> limit = run.job().longestAttempt();
        boolean tooLong =
                limit.filter(most -> effort.takes().compareTo(most) > 0).isPresent();
        Effort real = tooLong
                ? new Effort(
                        limit.get(),
                        AttemptEnd.TIMED_OUT,
                        Optional.of("stopped at its time limit"),
                        effort.result(),
                        effort.output())
                : effort;
        Working begun = new Working(run, time.nanos(), real);
        working.put(run.id(), begun);
        time.after(real.takes().toNanos(), () -> {
            if (begun.equals(working.get(run.id()))) {
                end(run.id(), real.end(), real.error().orElse(""));
            }
        });
    }

    private void end(long run, AttemptEnd end, String error) {
        Working ended = Objects.requireNonNull(working.remove(run), "a run that nobody works on");
        busy.merge(ended.run.job().lane(), -1, Integer::sum);
        Optional<String> why = Optional.of(error).filter(text -> !text.isEmpty());
        instance.completed(new Completion(
                ended.run,
                ended.run.attempt(ended.begun, time.nanos(), end, why),
                ended.effort.result(),
                ended.effort.output(),
                Failure.UNKNOWN,
                /* recorded= */ false));
        report();
    }

    /** What cannot be reported now, since the store is away, is reported once it can. */
    private void report() {
        Duration rest = untilIdle(finish);
        if (finish.idle()) {
            untilIdle(settle);
            lookIn(0);
        } else if (!gone) {
            time.after(rest.toNanos(), this::report);
        }
    }

    /** Work stops when it is told to. */
    @Override
    public void stop(LeasedRun run, StopReason why) {
        if (working.containsKey(run.id())) {
            AttemptEnd end = switch (why) {
                case TIME_LIMIT -> AttemptEnd.TIMED_OUT;
                case DRAINING -> AttemptEnd.HANDED_BACK;
                case CANCELLED -> AttemptEnd.CANCELLED;
                case SUPERSEDED -> AttemptEnd.SUPERSEDED;
                case LEASE_LOST -> AttemptEnd.LOST;
            };
            time.after(0, () -> {
                if (working.containsKey(run.id())) {
                    end(run.id(), end, "");
                }
            });
        }
    }
}
