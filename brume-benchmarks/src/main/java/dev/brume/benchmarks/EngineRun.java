package dev.brume.benchmarks;

import dev.brume.Brume;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.spi.Store;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Callable;
import java.util.concurrent.locks.LockSupport;

/** The whole engine with more due than it can do: jobs every second, empty work. */
final class EngineRun {
    /** A machine may be so busy that nothing ends in the time of a short measurement. */
    private static final long PATIENCE_NANOS = 60_000_000_000L;

    private final Store store;
    private final int instances;
    private final int workers;
    private final int batch;

    EngineRun(Store store, int instances, int workers, int batch) {
        this.store = store;
        this.instances = instances;
        this.workers = workers;
        this.batch = batch;
    }

    /**
     * Defines the jobs.
     *
     * @param due how many are due every second
     * @param far how many more are due in a year or more
     */
    void define(int due, int far) {
        Brume brume = Brume.on(store).instance("bench-definer").build();
        brume.handler("nothing", run -> {});
        List<Job> jobs = new ArrayList<>();
        for (int i = 0; i < due; i++) {
            jobs.add(Job.named("job-" + i)
                    .every(Duration.ofSeconds(1))
                    .handler("nothing")
                    .ifBusy(IfBusy.alongside(IfBusy.MOST))
                    .build());
        }
        brume.define(jobs, "benchmark");
        for (int from = 0; from < far; from += 50_000) {
            List<Job> more = new ArrayList<>();
            for (int i = from; i < Math.min(far, from + 50_000); i++) {
                more.add(Job.named("far-" + i)
                        .cron(i % 60 + " 4 29 2 *", "Atlantic/Azores")
                        .handler("nothing")
                        .build());
            }
            brume.define(more, "benchmark-far");
        }
    }

    /**
     * {@return how many runs a second end}
     *
     * @param ended counts the runs that ended so far; is asked at the beginning and at the end
     */
    double measure(double warmUp, double seconds, Callable<Long> ended) throws Exception {
        List<Brume> all = new ArrayList<>();
        for (int i = 0; i < instances; i++) {
            Brume brume = Brume.on(store)
                    .instance("bench-" + i)
                    .workers(workers)
                    .batch(batch)
                    .build();
            brume.handler("nothing", run -> {});
            all.add(brume);
        }
        all.forEach(Brume::start);
        pause(warmUp);
        long before = ended.call();
        long begin = System.nanoTime();
        pause(seconds);
        long ends = ended.call() - before;
        while (ends == 0 && System.nanoTime() - begin < PATIENCE_NANOS) {
            pause(0.1);
            ends = ended.call() - before;
        }
        double rate = ends / ((System.nanoTime() - begin) / 1e9);
        for (Brume brume : all) {
            brume.stop(Duration.ofSeconds(5));
        }
        return rate;
    }

    static void pause(double seconds) {
        long until = System.nanoTime() + (long) (seconds * 1e9);
        while (System.nanoTime() - until < 0) {
            LockSupport.parkNanos(until - System.nanoTime());
        }
    }
}
