package dev.brume.internal.engine;

import dev.brume.internal.event.EngineThreads;
import java.util.Map;
import java.util.concurrent.Executor;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.ThreadFactory;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;

/**
 * Which threads carry out the work of lanes.
 *
 * @param light whether they are virtual ones, where the runtime has them
 * @param own executors of the application's by lane, in their place
 */
public record WorkThreads(boolean light, Map<String, Executor> own) {
    /** Platform threads of the instance's own. */
    public static final WorkThreads USUAL = new WorkThreads(/* light= */ false, Map.of());

    /** Creates the choice. */
    public WorkThreads {
        own = Map.copyOf(own);
    }

    /** {@return threads of the instance's own for a lane, as many as it has workers} */
    ThreadPoolExecutor pool(String name, int size) {
        ThreadFactory factory = light ? EngineThreads.light(name) : EngineThreads.numbered(name);
        ThreadPoolExecutor threads =
                new ThreadPoolExecutor(size, size, 30, TimeUnit.SECONDS, new LinkedBlockingQueue<>(), factory);
        threads.allowCoreThreadTimeOut(true);
        return threads;
    }
}
