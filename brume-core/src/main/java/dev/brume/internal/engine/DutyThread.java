package dev.brume.internal.engine;

import dev.brume.internal.duty.Duty;
import java.time.Duration;
import java.util.concurrent.locks.LockSupport;
import java.util.function.Consumer;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Drives one duty: does a step, sleeps as long as it asked for, or until it is woken.
 *
 * <p>Whatever a duty throws is logged, and the duty is tried again: nothing it throws ends its thread.
 */
final class DutyThread {
    private static final Logger LOG = LoggerFactory.getLogger(DutyThread.class);
    private static final Duration AFTER_SURPRISE = Duration.ofSeconds(1);

    private final Duty duty;
    private final Consumer<Throwable> whenThrown;
    private final Thread thread;
    private volatile boolean stopped;
    private volatile boolean woken;

    DutyThread(String name, Duty duty) {
        this(name, duty, thrown -> {});
    }

    /**
     * Creates the thread, not yet started.
     *
     * @param whenThrown hears of what the duty throws
     */
    DutyThread(String name, Duty duty, Consumer<Throwable> whenThrown) {
        this.duty = duty;
        this.whenThrown = whenThrown;
        thread = new Thread(this::loop, name);
        thread.setDaemon(true);
    }

    void start() {
        thread.start();
    }

    /** Makes it do a step soon, however long it meant to sleep. */
    void wake() {
        if (!woken) {
            woken = true;
            LockSupport.unpark(thread);
        }
    }

    /** Does no further step from now on, without waiting for the current one. */
    void stopSoon() {
        stopped = true;
        LockSupport.unpark(thread);
    }

    /** Lets the current step end, then ends the thread; returns when it has, or after a limit. */
    void stop(Duration limit) throws InterruptedException {
        stopSoon();
        thread.join(Math.max(1, limit.toMillis()));
    }

    private void loop() {
        while (!stopped) {
            woken = false;
            // An interrupt is meant for nobody here, and would turn every rest into none.
            Thread.interrupted();
            sleep(step());
        }
    }

    private Duration step() {
        try {
            return duty.step();
        } catch (Throwable e) {
            report(e);
            return AFTER_SURPRISE;
        }
    }

    /** With no memory left, to say so may fail as well. */
    private void report(Throwable thrown) {
        try {
            whenThrown.accept(thrown);
            LOG.error("{} failed in an unforeseen way; goes on", thread.getName(), thrown);
        } catch (Throwable again) {
            thrown.addSuppressed(again);
        }
    }

    private void sleep(Duration rest) {
        long until = System.nanoTime() + rest.toNanos();
        for (long left = rest.toNanos(); left > 0 && !woken && !stopped; left = until - System.nanoTime()) {
            LockSupport.parkNanos(this, left);
        }
    }
}
