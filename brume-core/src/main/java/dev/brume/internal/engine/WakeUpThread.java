package dev.brume.internal.engine;

import dev.brume.StoreException;
import dev.brume.spi.Store;
import dev.brume.spi.WakeUps;
import java.time.Duration;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.locks.LockSupport;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Listens for calls from others, where the store has a way to tell; begins again when the connection is lost. */
final class WakeUpThread {
    private static final Logger LOG = LoggerFactory.getLogger(WakeUpThread.class);
    private static final Duration LISTEN = Duration.ofMillis(500);
    private static final Duration AFTER_TROUBLE = Duration.ofSeconds(5);

    private final Store store;
    private final Runnable called;
    private final Runnable ended;
    private final Thread thread;
    private volatile boolean stopped;

    /**
     * Creates the thread.
     *
     * @param called runs when there is work
     * @param ended runs when runs have ended elsewhere
     */
    WakeUpThread(String name, Store store, Runnable called, Runnable ended) {
        this.store = store;
        this.called = called;
        this.ended = ended;
        thread = new Thread(this::loop, name);
        thread.setDaemon(true);
    }

    void start() {
        thread.start();
    }

    void stop(Duration limit) throws InterruptedException {
        stopped = true;
        LockSupport.unpark(thread);
        thread.join(Math.max(1, limit.toMillis()));
    }

    private void loop() {
        while (!stopped) {
            try {
                Optional<WakeUps> opened = store.wakeUps();
                if (opened.isEmpty()) {
                    return;
                }
                try (WakeUps wakeUps = opened.get()) {
                    listen(wakeUps);
                }
            } catch (StoreException e) {
                LOG.debug("{}: not listening for now: {}", thread.getName(), e.getMessage());
                pause();
            } catch (Throwable e) {
                // Everyone looks again by themselves, so that nothing is missed meanwhile.
                LOG.error("{} failed in an unforeseen way; goes on", thread.getName(), e);
                pause();
            }
        }
    }

    private void listen(WakeUps wakeUps) {
        while (!stopped) {
            Set<WakeUps.Call> heard = wakeUps.await(LISTEN);
            if (heard.contains(WakeUps.Call.WORK)) {
                called.run();
            }
            if (heard.contains(WakeUps.Call.ENDS)) {
                ended.run();
            }
        }
    }

    private void pause() {
        long until = System.nanoTime() + AFTER_TROUBLE.toNanos();
        for (long left = AFTER_TROUBLE.toNanos(); left > 0 && !stopped; left = until - System.nanoTime()) {
            LockSupport.parkNanos(this, left);
        }
    }
}
