package dev.brume.internal.event;

import java.util.concurrent.ThreadFactory;
import java.util.concurrent.atomic.AtomicInteger;

/** Makes daemon threads with telling names. */
public final class EngineThreads {
    private EngineThreads() {}

    public static ThreadFactory numbered(String name) {
        AtomicInteger count = new AtomicInteger();
        return task -> {
            Thread thread = new Thread(task, name + "-" + count.incrementAndGet());
            thread.setDaemon(true);
            return thread;
        };
    }
}
