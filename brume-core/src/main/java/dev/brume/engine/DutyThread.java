package dev.brume.engine;

import dev.brume.duties.Duty;
import java.time.Duration;
import java.util.concurrent.locks.LockSupport;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Drives one duty: does a step, sleeps as long as it asked for, or until it is woken.
 *
 * <p>A duty that throws is logged and tried again; it never ends its thread.
 */
final class DutyThread {
    private static final Logger LOG = LoggerFactory.getLogger(DutyThread.class);
    private static final Duration AFTER_SURPRISE = Duration.ofSeconds(1);

    private final Duty duty;
    private final Thread thread;
    private volatile boolean stopped;
    private volatile boolean woken;

    DutyThread(String name, Duty duty) {
        this.duty = duty;
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

    /** Lets the current step end, then ends the thread; returns when it has, or after a limit. */
    void stop(Duration limit) throws InterruptedException {
        stopped = true;
        LockSupport.unpark(thread);
        thread.join(Math.max(1, limit.toMillis()));
    }

    private void loop() {
        while (!stopped) {
            woken = false;
            Duration rest;
            try {
                rest = duty.step();
            } catch (RuntimeException | AssertionError e) {
                LOG.error("{} failed in an unforeseen way; goes on", thread.getName(), e);
                rest = AFTER_SURPRISE;
            }
            sleep(rest);
        }
    }

    private void sleep(Duration rest) {
        long until = System.nanoTime() + rest.toNanos();
        for (long left = rest.toNanos(); left > 0 && !woken && !stopped; left = until - System.nanoTime()) {
            LockSupport.parkNanos(this, left);
        }
    }
}
