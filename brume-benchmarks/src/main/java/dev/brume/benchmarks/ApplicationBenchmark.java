package dev.brume.benchmarks;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Brume;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.OneOffs;
import dev.brume.RunHandle;
import dev.brume.history.History;
import dev.brume.history.JobFilter;
import dev.brume.history.JobView;
import dev.brume.history.Pause;
import dev.brume.jdbc.JdbcStore;
import java.sql.Connection;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ThreadLocalRandom;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;
import java.util.function.Supplier;

/** What an application meets on PostgreSQL: a page of many jobs, and thousands who wait for ends. */
public final class ApplicationBenchmark {
    private static final int JOBS = Scale.number("jobs", 100_000, 1_000);
    private static final int TENANTS = 100;
    private static final int WAITERS = Scale.number("waiters", 10_000, 200);
    private static final int LOOKS = Scale.number("looks", 101, 3);
    private static final int PAGE = 30;
    private static final int AT_ONCE = 500;
    private static final int WAITS = Scale.number("waits", 31, 3);

    /** So long that others know by then that somebody waits, in milliseconds. */
    private static final int LONG = 2_200;

    private ApplicationBenchmark() {}

    /** Runs the benchmark and prints its figures. */
    public static void main(String[] args) throws Exception {
        List<String> wanted = args.length == 0 ? List.of("pages", "waiters", "ends") : List.of(args);
        try (Server server = new Server();
                HikariDataSource pool = server.pool(16)) {
            if (wanted.contains("pages")) {
                pages(server.freshStore(pool, "pages"));
            }
            if (wanted.contains("waiters")) {
                waiters(pool, server.freshStore(pool, "waiters"));
            }
            if (wanted.contains("ends")) {
                server.freshStore(pool, "ends");
                ends("called", JdbcStore.builder(pool).schema("ends").build());
                ends(
                        "looking by itself",
                        JdbcStore.builder(pool).schema("ends").withoutCalls().build());
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

    private static void waiters(HikariDataSource pool, JdbcStore store) throws Exception {
        try (Brume office = Brume.on(store)
                        .instance("office")
                        .workers(64)
                        .withoutLog()
                        .build();
                Brume desk = Brume.on(store).instance("desk").withoutLog().build()) {
            JobName reminder = JobName.parse("reminder");
            AtomicLong lastEnd = new AtomicLong();
            office.define(
                    Job.named(reminder).ifBusy(IfBusy.alongside(IfBusy.MOST)), run -> lastEnd.set(System.nanoTime()));
            desk.orders("benchmark", "").pause(Pause.Scope.of(reminder));
            List<RunHandle> runs = new ArrayList<>();
            while (runs.size() < WAITERS) {
                try (Connection connection = pool.getConnection()) {
                    connection.setAutoCommit(false);
                    OneOffs orders = desk.oneOffs().within(connection);
                    for (int i = 0; i < Math.min(AT_ONCE, WAITERS); i++) {
                        runs.add(orders.add(OneOff.of(reminder, "customer-" + runs.size())
                                        .at(Instant.EPOCH))
                                .run()
                                .orElseThrow());
                    }
                    connection.commit();
                }
            }
            List<Long> ids = runs.stream().map(RunHandle::id).toList();
            double look = millis(() -> desk.history().standing(ids));
            CompletableFuture<?>[] ends =
                    runs.stream().map(run -> run.ended().toCompletableFuture()).toArray(CompletableFuture<?>[]::new);
            office.start();
            long began = System.nanoTime();
            desk.orders("benchmark", "").resume(Pause.Scope.of(reminder));
            CompletableFuture.allOf(ends).get(10, TimeUnit.MINUTES);
            long told = System.nanoTime();
            System.out.printf(
                    Locale.ROOT,
                    "%,d waiters of one process: a look-up for all takes %.1f ms; all run and told of in %.1f s, %d ms after the last work was done%n",
                    WAITERS,
                    look,
                    (told - began) / 1e9,
                    (told - lastEnd.get()) / 1_000_000);
        }
    }

    // One who waits for work elsewhere that takes a while.

    private static void ends(String how, JdbcStore store) throws Exception {
        AtomicLong done = new AtomicLong();
        try (Brume office = Brume.on(store).instance("office").withoutLog().build();
                Brume desk = Brume.on(store)
                        .instance("desk")
                        .lane("desk", 1)
                        .withoutLog()
                        .build()) {
            JobName tide = JobName.parse("tide");
            office.define(Job.named(tide), run -> {
                Thread.sleep(LONG + ThreadLocalRandom.current().nextInt(LONG));
                done.set(System.nanoTime());
            });
            office.start();
            desk.start();
            List<Double> late = new ArrayList<>();
            for (int i = 0; i < WAITS; i++) {
                desk.orders("benchmark", "").runNow(tide).await(Duration.ofMinutes(1));
                late.add((System.nanoTime() - done.get()) / 1e6);
            }
            System.out.printf(
                    Locale.ROOT,
                    "one who waits for an end elsewhere, %s: told %.1f ms after it in the median, %.1f at most (%d runs)%n",
                    how,
                    Figures.median(late),
                    Collections.max(late),
                    WAITS);
        }
    }
}
