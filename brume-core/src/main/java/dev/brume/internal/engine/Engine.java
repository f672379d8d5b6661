package dev.brume.internal.engine;

import dev.brume.Handler;
import dev.brume.StopReason;
import dev.brume.StoreException;
import dev.brume.Vitals;
import dev.brume.internal.duty.Duty;
import dev.brume.internal.duty.Instance;
import dev.brume.internal.duty.Turns;
import dev.brume.internal.retention.SweepDuty;
import dev.brume.internal.round.RoundDuty;
import dev.brume.internal.run.FinishDuty;
import dev.brume.internal.run.ProgressDuty;
import dev.brume.internal.run.RunContext;
import dev.brume.internal.run.SettleDuty;
import dev.brume.internal.session.LeaseEndDuty;
import dev.brume.internal.session.RenewDuty;
import dev.brume.internal.work.Around;
import dev.brume.internal.work.AttemptRunner;
import dev.brume.spi.Completion;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.Store;
import java.time.Duration;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.TimeUnit;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * One instance at work: a thread each for keeping the session, finding work, reporting ends and settling
 * them, and the workers.
 *
 * <p>Stopping goes: take no more work; tell the runs; wait for them; cut those that remain; give back
 * what even then goes on; end the session. A run that was given back and ends after all is refused by
 * its fence.
 */
public final class Engine {
    private static final Logger LOG = LoggerFactory.getLogger(Engine.class);
    private static final Duration GRACE = Duration.ofSeconds(6);
    private static final Duration LAST_REPORT = Duration.ofSeconds(10);

    private static final long LOOK_AGAIN_MILLIS = 10;

    private final Instance instance;
    private final Workers workers;
    private final RenewDuty keep;
    private final FinishDuty finish;
    private final SettleDuty settle;
    private final DutyThread keeper;
    private final DutyThread rounds;
    private final DutyThread finisher;
    private final DutyThread settler;
    private final DutyThread progress;
    private final DutyThread leaseEnd;
    private final DutyThread sweeper;
    private final Teller teller;
    private final WakeUpThread wakeUps;

    /**
     * Creates the engine, not yet started.
     *
     * @param store in which others may call
     * @param handlers by name; may change while it runs
     * @param around what the application has put around attempts; may change while it runs
     * @param threads that work is carried out on
     * @param teller tells what is to be told
     */
    public Engine(
            Instance instance,
            Store store,
            Map<String, Handler> handlers,
            Around around,
            WorkThreads threads,
            Teller teller) {
        this.instance = instance;
        this.teller = teller;
        String name = "brume-" + instance.settings().instance();
        keep = new RenewDuty(instance, UUID::randomUUID);
        settle = new SettleDuty(instance);
        settler = watched(name + "-settle", settle, Turns.Name.SETTLE);
        finish = new FinishDuty(instance, settler::wake);
        keeper = new DutyThread(name + "-keep", keep);
        RoundDuty round = new RoundDuty(instance);
        rounds = watched(name + "-round", round, Turns.Name.ROUND);
        wakeUps = new WakeUpThread(
                name + "-wake",
                store,
                () -> {
                    round.called();
                    rounds.wake();
                },
                instance.watch()::called);
        instance.whenReady(() -> {
            round.called();
            rounds.wake();
        });
        progress = new DutyThread(name + "-progress", new ProgressDuty(instance));
        finisher = watched(name + "-finish", finish, Turns.Name.FINISH);
        leaseEnd = new DutyThread(name + "-lease", new LeaseEndDuty(instance));
        sweeper = new DutyThread(name + "-sweep", new SweepDuty(instance));
        workers = new Workers(
                instance.settings().instance(),
                instance.settings().lanes(),
                threads,
                new AttemptRunner(handlers, new RunContext(instance), around, instance.time()),
                this::completed,
                rounds::wake);
        instance.workers(workers);
    }

    /** {@return the workers of each lane} */
    public Map<String, Vitals.Lane> lanes() {
        return workers.lanes();
    }

    /** A duty that the instance owes its lease to. */
    private DutyThread watched(String name, Duty duty, Turns.Name turn) {
        return new DutyThread(name, duty, thrown -> instance.turns().failed(turn, thrown));
    }

    private void completed(Completion completion) {
        instance.completed(completion);
        finisher.wake();
    }

    /** Starts the threads. The session is opened by the keeper, as soon as the store can be reached. */
    public void start() {
        long now = instance.time().nanos();
        for (Turns.Name duty : Turns.Name.values()) {
            instance.turns().watch(duty, now);
        }
        keeper.start();
        leaseEnd.start();
        sweeper.start();
        rounds.start();
        finisher.start();
        settler.start();
        progress.start();
        teller.start();
        wakeUps.start();
        instance.watch().listens(true);
    }

    /**
     * Stops, letting runs go on for at most so long. If it is interrupted, nothing renews the session any more, and it may be
     * called again.
     *
     * @return whether all runs had ended by then
     */
    public boolean stop(Duration limit) throws InterruptedException {
        try {
            return stopInOrder(limit);
        } catch (InterruptedException e) {
            keeper.stopSoon();
            throw e;
        }
    }

    private boolean stopInOrder(Duration limit) throws InterruptedException {
        instance.drain();
        instance.turns().unwatch(Turns.Name.ROUND);
        rounds.stop(limit.plus(GRACE));
        sweeper.stopSoon();
        wakeUps.stop(GRACE);
        unlessStoreFails("marked as draining", keep::drain);
        instance.held().forEach(run -> workers.stop(run, StopReason.DRAINING));
        boolean clean = waitForRuns(limit);
        if (!clean) {
            workers.cutAll(StopReason.DRAINING);
            if (!waitForRuns(GRACE)) {
                sayWhatGoesOn();
                instance.held().forEach(this::giveBack);
                waitForReports(LAST_REPORT);
            }
        }
        instance.turns().unwatch(Turns.Name.FINISH);
        finisher.stop(GRACE);
        instance.turns().unwatch(Turns.Name.SETTLE);
        settler.stop(GRACE);
        progress.stop(GRACE);
        teller.stop(GRACE);
        if (!clean) {
            instance.call();
        }
        keeper.stop(GRACE);
        leaseEnd.stop(GRACE);
        sweeper.stop(GRACE);
        workers.close();
        unlessStoreFails("ended, and will lapse", keep::close);
        return clean;
    }

    private void unlessStoreFails(String what, Runnable step) {
        try {
            step.run();
        } catch (StoreException e) {
            LOG.warn("{}: the session could not be {}: {}", instance.settings().instance(), what, e.getMessage());
        }
    }

    private boolean waitForRuns(Duration limit) throws InterruptedException {
        long until = System.nanoTime() + limit.toNanos();
        while (!instance.held().isEmpty() || workers.going() > 0 || !finish.idle() || !settle.idle()) {
            if (System.nanoTime() - until >= 0) {
                return false;
            }
            TimeUnit.MILLISECONDS.sleep(LOOK_AGAIN_MILLIS);
        }
        return true;
    }

    /** Work that does not heed an interrupt cannot be ended; its lease is. */
    private void sayWhatGoesOn() {
        int going = workers.going();
        if (going > 0) {
            LOG.warn(
                    "{}: {} handlers do not heed that they were interrupted and go on; what they still report is refused",
                    instance.settings().instance(),
                    going);
        }
    }

    private void waitForReports(Duration limit) throws InterruptedException {
        long until = System.nanoTime() + limit.toNanos();
        while ((!instance.held().isEmpty() || !finish.idle() || !settle.idle()) && System.nanoTime() - until < 0) {
            TimeUnit.MILLISECONDS.sleep(LOOK_AGAIN_MILLIS);
        }
    }

    private void giveBack(LeasedRun run) {
        long now = instance.time().nanos();
        instance.completed(
                Completion.handedBack(run, run.leasedNanos(), now, "did not stop when the instance was stopping"));
        finisher.wake();
    }
}
