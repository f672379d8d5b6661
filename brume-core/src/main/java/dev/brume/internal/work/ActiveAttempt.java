package dev.brume.internal.work;

import dev.brume.Job;
import dev.brume.Mask;
import dev.brume.StopReason;
import dev.brume.Work;
import dev.brume.spi.LeasedRun;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicReference;
import org.jspecify.annotations.Nullable;

/**
 * One attempt on its worker.
 *
 * <p>{@code tell} only lets the work know; {@code cut} also ends it: by interrupt, or for a program by
 * the way it has set. The first reason given stays, also one that is given before a worker has begun. Safe for use by many threads.
 */
public final class ActiveAttempt {
    private final LeasedRun run;
    private final Mask mask;
    private final AtomicReference<StopReason> asked = new AtomicReference<>();
    private @Nullable Thread worker;
    private Runnable ending = this::interrupt;
    private boolean cut;
    private boolean over;

    public ActiveAttempt(LeasedRun run) {
        this.run = run;
        this.mask = maskOf(run.job());
    }

    /** Says which thread carries it out from now on; one that was cut before is cut now. */
    public synchronized void begin(Thread thread) {
        worker = thread;
        if (cut) {
            ending.run();
        }
    }

    private void interrupt() {
        if (worker != null) {
            worker.interrupt();
        }
    }

    /** {@return what keeps the job's secrets off the record; variables are this process's, and those set for its program} */
    Mask mask() {
        return mask;
    }

    private static Mask maskOf(Job job) {
        Map<String, String> own = job.work() instanceof Work.Program program ? program.environment() : Map.of();
        return Mask.of(job.mask(), name -> Optional.ofNullable(own.getOrDefault(name, System.getenv(name))));
    }

    public LeasedRun run() {
        return run;
    }

    public Optional<StopReason> stopAsked() {
        return Optional.ofNullable(asked.get());
    }

    public void tell(StopReason why) {
        asked.compareAndSet(null, why);
    }

    public void cut(StopReason why) {
        tell(why);
        synchronized (this) {
            if (!cut && !over) {
                cut = true;
                ending.run();
            }
        }
    }

    synchronized boolean wasCut() {
        return cut;
    }

    /** Sets another way of ending the work than an interrupt; used at once if it was cut already. */
    synchronized void endBy(Runnable way) {
        ending = way;
        if (cut) {
            way.run();
        }
    }

    /** Closes the attempt and clears an interrupt meant for it, so that the worker's next one is not hit. */
    public synchronized void close() {
        over = true;
        if (Thread.currentThread() == worker) {
            Thread.interrupted();
        }
    }
}
