package dev.brume.internal.engine;

import dev.brume.NamedLease;
import dev.brume.StoreException;
import dev.brume.history.NamedLeaseRow;
import dev.brume.internal.event.EngineThreads;
import dev.brume.internal.session.NamedLeases;
import java.sql.Connection;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.ScheduledFuture;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;

/** Keeps the leases by name that an instance has taken: renews each every third of its time. Safe for use by many threads. */
public final class NamedLeaseKeeper {
    private final NamedLeases leases;
    private final List<Kept> held = new CopyOnWriteArrayList<>();
    private @Nullable ScheduledExecutorService timer;

    /** Creates a keeper; it has no thread until the first lease is taken. */
    public NamedLeaseKeeper(NamedLeases leases) {
        this.leases = leases;
    }

    /**
     * Takes a lease.
     *
     * @param most how long it lasts unless it is renewed
     * @param coolDown how long the name cannot be taken again once it was given back
     * @return empty if it cannot be had now
     */
    public Optional<NamedLease> take(String name, Duration most, Duration coolDown) {
        if (most.compareTo(NamedLease.SHORTEST) < 0 || most.compareTo(NamedLease.LONGEST) > 0) {
            throw new IllegalArgumentException("lease '" + name + "': " + most + " is outside 1s to 1d");
        }
        if (coolDown.isNegative()) {
            throw new IllegalArgumentException("lease '" + name + "': the cool-down is below 0s");
        }
        return leases.take(name, most).map(taken -> keep(new Kept(taken, most, coolDown)));
    }

    private synchronized Kept keep(Kept lease) {
        if (timer == null) {
            timer = Executors.newSingleThreadScheduledExecutor(EngineThreads.numbered("brume-leases"));
        }
        held.add(lease);
        long pause = lease.most.dividedBy(3).toMillis();
        lease.renewedBy(timer.scheduleWithFixedDelay(lease::renew, pause, pause, TimeUnit.MILLISECONDS));
        return lease;
    }

    /** Gives all leases back and ends the thread. */
    public synchronized void close() {
        held.forEach(Kept::close);
        if (timer != null) {
            timer.shutdownNow();
        }
    }

    private final class Kept implements NamedLease {
        private final Duration most;
        private final Duration coolDown;
        private volatile NamedLeases.Taken taken;
        private volatile boolean over;
        private @Nullable ScheduledFuture<?> renewing;

        Kept(NamedLeases.Taken taken, Duration most, Duration coolDown) {
            this.taken = taken;
            this.most = most;
            this.coolDown = coolDown;
        }

        private NamedLeaseRow row() {
            return taken.row();
        }

        @Override
        public String name() {
            return row().name();
        }

        @Override
        public long fence() {
            return row().fence();
        }

        @Override
        public boolean isHeld() {
            return !over && taken.endNanos() - leases.nanos() > 0;
        }

        @Override
        public void check(Connection connection) {
            if (over) {
                throw NamedLeases.lost(row());
            }
            leases.check(row(), connection);
        }

        private synchronized void renewedBy(ScheduledFuture<?> task) {
            renewing = task;
            if (over) {
                task.cancel(/* mayInterruptIfRunning= */ false);
            }
        }

        private void renew() {
            try {
                Optional<NamedLeases.Taken> renewed = leases.renew(row(), most);
                if (renewed.isPresent()) {
                    taken = renewed.get();
                } else {
                    lose("it ran out, or someone else has it");
                }
            } catch (StoreException e) {
                if (!isHeld()) {
                    lose("could not be renewed: " + e.getMessage());
                }
            }
        }

        private void lose(String why) {
            if (end()) {
                leases.tellLost(row(), why);
            }
        }

        /** Ends it once; says whether it was now. */
        private synchronized boolean end() {
            boolean first = !over;
            over = true;
            held.remove(this);
            if (renewing != null) {
                renewing.cancel(/* mayInterruptIfRunning= */ false);
            }
            return first;
        }

        @Override
        public void close() {
            if (end()) {
                leases.release(row(), coolDown);
            }
        }
    }
}
