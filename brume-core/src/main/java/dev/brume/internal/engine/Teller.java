package dev.brume.internal.engine;

import dev.brume.internal.duty.Instance;
import dev.brume.internal.event.EngineThreads;
import dev.brume.internal.telling.TellDuty;
import dev.brume.notice.Sender;
import dev.brume.notice.Watch;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.SynchronousQueue;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;

/** The threads that tell: one that decides, and as many as send at once. An instance has them while it runs, and a vigil without an instance. */
public final class Teller {
    private static final int MOST = 64;
    private static final Duration IDLE = Duration.ofSeconds(30);

    private final Instance instance;
    private final List<Sender> senders;
    private final ExecutorService executor;
    private final DutyThread thread;

    /** Creates it, not yet started. */
    public Teller(Instance instance, List<Sender> senders, Optional<Watch> watch) {
        this.instance = instance;
        this.senders = List.copyOf(senders);
        // A delivery that does not come back keeps its thread; there are few places, so there are few of those.
        executor = new ThreadPoolExecutor(
                0,
                MOST,
                IDLE.toSeconds(),
                TimeUnit.SECONDS,
                new SynchronousQueue<>(),
                EngineThreads.numbered("brume-send"));
        DutyThread[] own = new DutyThread[1];
        TellDuty duty = new TellDuty(instance, senders, watch, executor, () -> own[0].wake());
        thread = new DutyThread("brume-" + instance.settings().instance() + "-tell", duty);
        own[0] = thread;
    }

    /** Starts. */
    public void start() {
        instance.whenNotable(thread::wake);
        thread.start();
    }

    /** Lets what is being sent end, for so long at most, then ends the threads; what was cut short is sent again by others. */
    public void stop(Duration limit) throws InterruptedException {
        thread.stop(limit);
        executor.shutdown();
        if (!executor.awaitTermination(limit.toMillis(), TimeUnit.MILLISECONDS)) {
            executor.shutdownNow();
        }
        senders.forEach(Sender::close);
    }
}
