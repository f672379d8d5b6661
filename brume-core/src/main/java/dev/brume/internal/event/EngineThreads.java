package dev.brume.internal.event;

import java.util.concurrent.ThreadFactory;
import java.util.concurrent.atomic.AtomicInteger;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Makes daemon threads with telling names. */
public final class EngineThreads {
    private static final Logger LOG = LoggerFactory.getLogger(EngineThreads.class);

    private EngineThreads() {}

    /** {@return a maker of virtual threads where the runtime has them, from Java 21 on; of platform threads elsewhere} */
    public static ThreadFactory light(String name) {
        try {
            Object builder = Thread.class.getMethod("ofVirtual").invoke(null);
            Class<?> type = Class.forName("java.lang.Thread$Builder");
            Object named = type.getMethod("name", String.class, long.class).invoke(builder, name + "-", 1L);
            return (ThreadFactory) type.getMethod("factory").invoke(named);
        } catch (ReflectiveOperationException | UnsupportedOperationException e) {
            LOG.debug("{}: this runtime has no virtual threads", name, e);
            return numbered(name);
        }
    }

    /** {@return a maker of daemon threads} */
    public static ThreadFactory numbered(String name) {
        AtomicInteger count = new AtomicInteger();
        return task -> {
            Thread thread = new Thread(task, name + "-" + count.incrementAndGet());
            thread.setDaemon(true);
            return thread;
        };
    }
}
