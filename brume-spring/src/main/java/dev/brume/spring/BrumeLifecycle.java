package dev.brume.spring;

import dev.brume.Brume;
import dev.brume.Vitals;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.context.SmartLifecycle;

/**
 * Starts the instance before the web server and what takes messages, and drains it after those take nothing more. Safe for use by many threads.
 */
public final class BrumeLifecycle implements SmartLifecycle {
    /** Below those of web servers, which stop earlier for it: first they take no more requests, then they close. */
    public static final int PHASE = DEFAULT_PHASE - 4096;

    private static final Logger LOG = LoggerFactory.getLogger(BrumeLifecycle.class);

    private final Brume brume;
    private final boolean starts;

    BrumeLifecycle(Brume brume, boolean starts) {
        this.brume = brume;
        this.starts = starts;
    }

    @Override
    public void start() {
        if (brume.vitals().state() == Vitals.State.STOPPED) {
            LOG.warn("the Brume of this application has stopped and cannot be started again; restart the application");
            return;
        }
        brume.start();
    }

    @Override
    public void stop() {
        brume.close();
    }

    @Override
    public void stop(Runnable callback) {
        Thread stopping = new Thread(
                () -> {
                    try {
                        brume.close();
                    } finally {
                        callback.run();
                    }
                },
                "brume-stop");
        stopping.start();
    }

    @Override
    public boolean isRunning() {
        Vitals.State state = brume.vitals().state();
        return state == Vitals.State.AT_WORK || state == Vitals.State.DRAINING;
    }

    @Override
    public boolean isAutoStartup() {
        return starts;
    }

    /** Not to be stopped and started again with a context that a test does not use for a while; asked from Spring 7 on. */
    public boolean isPauseable() {
        return false;
    }

    @Override
    public int getPhase() {
        return PHASE;
    }
}
