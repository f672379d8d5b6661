package dev.brume.benchmarks;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Brume;
import dev.brume.EventFilter;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.JobScope;
import dev.brume.OneOff;
import dev.brume.RunHandle;
import dev.brume.history.History;
import dev.brume.history.JobFilter;
import dev.brume.history.JobView;
import dev.brume.jdbc.JdbcStore;
import dev.brume.memory.MemoryStore;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import java.util.function.Supplier;

/**
 * What an application meets: a page of many jobs and thousands who wait for ends, on PostgreSQL; and what a listener and an interceptor cost each run, beside
 * what the engine itself costs in memory.
 */
public final class ApplicationBenchmark {
    private static final int JOBS = Scale.number("jobs", 100_000, 1_000);
    private static final int TENANTS = 100;
    private static final int WAITERS = Scale.number("waiters", 10_000, 200);
    private static final int RUNS = Scale.number("runs", 3_000, 200);
    private static final int ROUNDS = Scale.number("rounds", 15, 1);
    private static final int LOOKS = Scale.number("looks", 101, 3);
    private static final int PAGE = 30;

    private ApplicationBenchmark() {}

    /** Runs the benchmark and prints its figures. */
    public static void main(String[] args) throws Exception {
        List<String> wanted = args.length == 0 ? List.of("pages", "waiters", "around") : List.of(args);
        if (wanted.contains("around")) {
            around();
        }
        try (Server server = new Server();
                HikariDataSource pool = server.pool(16)) {
            if (wanted.contains("pages")) {
                pages(server.freshStore(pool, "pages"));
            }
            if (wanted.contains("waiters")) {
                waiters(server.freshStore(pool, "waiters"));
            }
        }
    }

    // Pages.

    private static void pages(JdbcStore store) {
        try (Brume brume = Brume.on(store).instance("office").withoutLog().build()) {
            List<Job> jobs = new ArrayList<>();
            for (int i = 0; i < JOBS; i++) {
                jobs.add(Job.named(new JobName("tenant-" + i % TENANTS, "job-" + i))
                        .cron(i % 60 + " 4 * * *", "Atlantic/Azores")
                        .handler("boards")
                        .build());
            }
            brume.define(jobs, "benchmark");
            History history = brume.history();
            JobFilter tenant = JobFilter.first(PAGE).within("tenant-50");
            List<JobView> first = history.jobs(tenant);
            JobName middle = first.get(first.size() / 2).name();
            System.out.printf(
                    Locale.ROOT,
                    "%d of %,d jobs, medians: of a namespace %.1f ms, its next page %.1f ms, by a name's beginning %.1f ms; one job %.1f ms%n",
                    PAGE,
                    JOBS,
                    millis(() -> history.jobs(tenant)),
                    millis(() -> history.jobs(tenant.after(middle))),
                    millis(() -> history.jobs(tenant.named("job-1*"))),
                    millis(() -> history.job(middle)));
        }
    }

    private static double millis(Supplier<Object> look) {
        List<Double> all = new ArrayList<>();
        for (int i = 0; i < LOOKS; i++) {
            long began = System.nanoTime();
            look.get();
            all.add((System.nanoTime() - began) / 1e6);
        }
        return Figures.median(all);
    }

    // Waiters.

    private static void waiters(JdbcStore store) throws Exception {
        try (Brume office = Brume.on(store)
                        .instance("office")
                        .workers(64)
                        .withoutLog()
                        .build();
                Brume desk = Brume.on(store).instance("desk").withoutLog().build()) {
            JobName reminder = JobName.parse("reminder");
            office.define(Job.named(reminder).ifBusy(IfBusy.alongside(IfBusy.MOST)), run -> {});
            List<RunHandle> runs = new ArrayList<>();
            Instant far = Instant.now().plus(Duration.ofDays(1));
            for (int i = 0; i < WAITERS; i++) {
                runs.add(desk.oneOffs()
                        .add(OneOff.of(reminder, "customer-" + i).at(far))
                        .run()
                        .orElseThrow());
            }
            List<Long> ids = runs.stream().map(RunHandle::id).toList();
            double look = millis(() -> desk.history().standing(ids));
            CompletableFuture<?>[] ends =
                    runs.stream().map(run -> run.ended().toCompletableFuture()).toArray(CompletableFuture<?>[]::new);
            office.start();
            long began = System.nanoTime();
            for (int i = 0; i < WAITERS; i++) {
                desk.oneOffs().move(reminder, "customer-" + i, Instant.EPOCH);
            }
            double moved = (System.nanoTime() - began) / 1e9;
            CompletableFuture.allOf(ends).get(10, TimeUnit.MINUTES);
            System.out.printf(
                    Locale.ROOT,
                    "%,d waiters of one process: a look-up for all takes %.1f ms; all moved to now in %.1f s, all told of their ends %.1f s later%n",
                    WAITERS,
                    look,
                    moved,
                    (System.nanoTime() - began) / 1e9 - moved);
        }
    }

    // Listeners and interceptors.

    private static void around() throws Exception {
        List<Double> plain = new ArrayList<>();
        List<Double> heard = new ArrayList<>();
        List<Double> within = new ArrayList<>();
        for (int i = 0; i <= ROUNDS; i++) {
            plain.add(microsARun(brume -> {}));
            heard.add(microsARun(brume -> brume.listen("bench", EventFilter.ALL, event -> {})));
            within.add(microsARun(brume -> brume.around("bench", JobScope.ALL, (run, attempt) -> attempt.proceed())));
        }
        // The first round warms up.
        double own = Figures.median(plain.subList(1, plain.size()));
        System.out.printf(
                Locale.ROOT,
                "a run through the engine in memory takes %.1f us, with a listener %.1f, with an interceptor %.1f (medians of %d rounds in turns)%n",
                own,
                Figures.median(heard.subList(1, heard.size())),
                Figures.median(within.subList(1, within.size())),
                ROUNDS);
    }

    private interface Setting {
        void on(Brume brume);
    }

    private static double microsARun(Setting setting) throws Exception {
        try (Brume brume = Brume.on(new MemoryStore())
                .instance("office")
                .workers(8)
                .withoutLog()
                .build()) {
            JobName reminder = JobName.parse("reminder");
            brume.define(Job.named(reminder).ifBusy(IfBusy.alongside(IfBusy.MOST)), run -> {});
            setting.on(brume);
            List<RunHandle> runs = new ArrayList<>();
            for (int i = 0; i < RUNS; i++) {
                runs.add(brume.oneOffs()
                        .add(OneOff.of(reminder, "customer-" + i).at(Instant.EPOCH.plusSeconds(i)))
                        .run()
                        .orElseThrow());
            }
            long began = System.nanoTime();
            brume.start();
            runs.get(RUNS - 1).await(Duration.ofMinutes(10));
            return (System.nanoTime() - began) / 1e3 / RUNS;
        }
    }
}
