package dev.brume.simulator;

import dev.brume.StoreException;
import dev.brume.StoreException.Trouble;
import dev.brume.insight.internal.VirtualTime;
import dev.brume.spi.Outlook;
import dev.brume.spi.Store;
import dev.brume.spi.Transaction;
import dev.brume.testkit.WrappedStore;
import java.time.Duration;
import java.util.SplittableRandom;
import java.util.function.Function;

/**
 * One instance's way to the store: it loses calls and answers, takes its time, lets the instance die around them, and shows
 * the checker what really commits. Confined to one thread.
 */
final class FaultyStore extends WrappedStore {
    private final World world;
    private final Faults faults;
    private final SplittableRandom random;
    private long cutOffUntil;

    /** What all ways to the store share. */
    record World(VirtualTime time, InvariantChecker checker, FaultPlan plan, Sabotage sabotage, Duration lease) {}

    FaultyStore(Store store, World world, Faults faults, SplittableRandom random) {
        super(store);
        this.world = world;
        this.faults = faults;
        this.random = random;
    }

    /** One transaction at a time is all there is, and what was due meanwhile is done late. */
    @Override
    public boolean locksRowsAlone() {
        return true;
    }

    /** The instance died; nothing of it may go on. */
    static final class Crash extends Error {
        private static final long serialVersionUID = 1L;

        Crash() {
            super("simulated crash", null, false, false);
        }
    }

    /** Makes a transaction roll back although its steps went well. */
    private static final class RolledBack extends RuntimeException {
        private static final long serialVersionUID = 1L;
        private final Trouble trouble;

        RolledBack(Trouble trouble) {
            this.trouble = trouble;
        }
    }

    private boolean happens(double share) {
        return world.plan().happens(random, share);
    }

    private static StoreException trouble(Trouble trouble) {
        return new StoreException(trouble, "simulated: " + trouble, null);
    }

    /** Cuts the instance off for a while. */
    void cutOff(long nanos) {
        cutOffUntil = world.time().nanos() + nanos;
    }

    /** What may happen before the store is reached. */
    private void approach() {
        if (happens(faults.crashBefore())) {
            throw new Crash();
        }
        if (happens(faults.slow())) {
            world.time().drag(random.nextLong(world.lease().toNanos() / 2));
        }
        if (world.time().nanos() < cutOffUntil || happens(faults.refused())) {
            throw trouble(Trouble.UNREACHABLE);
        }
    }

    @Override
    public <T> T transact(Function<Transaction, T> steps) {
        approach();
        boolean commitLost = happens(faults.commitLost());
        boolean victim = happens(faults.victim());
        WatchedSteps[] watched = new WatchedSteps[1];
        T result;
        try {
            result = super.transact(tx -> {
                Transaction real = new BusyRuns(tx, () -> happens(faults.busy())).steps();
                watched[0] = new WatchedSteps(world.sabotage().ofTheStore(real), world.checker());
                T value = steps.apply(world.sabotage().ofTheDuties(watched[0].watched()));
                watched[0].last();
                if (commitLost || victim) {
                    throw new RolledBack(commitLost ? Trouble.COMMIT_UNCLEAR : Trouble.CONFLICT);
                }
                return value;
            });
        } catch (RolledBack e) {
            throw trouble(e.trouble);
        }
        watched[0].committed();
        if (happens(faults.crashAfter())) {
            throw new Crash();
        }
        if (happens(faults.answerLost())) {
            throw trouble(Trouble.COMMIT_UNCLEAR);
        }
        return result;
    }

    @Override
    public Outlook outlook(Look look) {
        approach();
        return super.outlook(look);
    }

    @Override
    public void close() {
        // The store underneath outlives every instance.
    }
}
