package dev.brume.benchmarks;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Brume;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.RunHandle;
import dev.brume.history.History;
import dev.brume.history.JobFilter;
import dev.brume.history.RunFilter;
import dev.brume.http.BrumeHttp;
import dev.brume.schedule.EverySchedule;
import dev.brume.server.HttpServer;
import java.io.IOException;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicLong;

/** What is asked for over HTTP on PostgreSQL, beside the bare look-up; and streams of events. */
public final class HttpBenchmark {
    private static final int JOBS = Scale.number("jobs", 100_000, 500);
    private static final int LOOKS = Scale.number("looks", 301, 5);
    private static final int CLIENTS = Scale.number("clients", 16, 2);
    private static final int SECONDS = Scale.number("seconds", 15, 1);
    private static final int ROUNDS = Scale.number("rounds", 5, 1);
    private static final int WHOLE = Scale.number("whole", 20, 2);
    private static final int FILTERED = Scale.number("filtered", 500, 5);
    private static final int RUNS_A_SECOND = Scale.number("runs", 350, 5);
    private static final int PAGE = 30;
    private static final String KEY = "benchmark";
    private static final ZoneId ZONE = ZoneId.of("Atlantic/Azores");

    private HttpBenchmark() {}

    /** Runs the benchmark and prints its figures. */
    public static void main(String[] args) throws Exception {
        List<String> wanted = args.length == 0 ? List.of("looks", "streams") : List.of(args);
        try (Server server = new Server();
                HikariDataSource pool = server.pool(16)) {
            if (wanted.contains("looks")) {
                try (Brume brume = Brume.on(server.freshStore(pool, "looks"))
                        .instance("office")
                        .withoutLog()
                        .build()) {
                    looks(brume);
                }
            }
            if (wanted.contains("streams")) {
                try (Brume brume = Brume.on(server.freshStore(pool, "streams"))
                        .instance("office")
                        .workers(64)
                        .withoutLog()
                        .build()) {
                    streams(brume);
                }
            }
        }
    }

    private static HttpServer serve(Brume brume) throws Exception {
        return HttpServer.start(BrumeHttp.of(brume).key(KEY).build(), "127.0.0.1", 0, Optional.empty());
    }

    // Looks.

    private static void looks(Brume brume) throws Exception {
        brume.handler("boards", run -> {});
        List<Job> jobs = new ArrayList<>();
        for (int i = 0; i < JOBS; i++) {
            jobs.add(Job.named(new JobName("tenant-" + i % 100, "job-" + i))
                    .cron(i % 60 + " 4 * * *", "Atlantic/Azores")
                    .handler("boards")
                    .build());
        }
        brume.define(jobs, "benchmark");
        brume.start();
        JobName one = jobs.get(JOBS / 2).name();
        RunHandle run = brume.orders("benchmark", "").runNow(one);
        run.await(Duration.ofMinutes(1));
        History history = brume.history();
        try (HttpServer server = serve(brume)) {
            pair(
                    "a page of 30 jobs",
                    () -> history.jobs(JobFilter.first(PAGE + 1).within(one.namespace())),
                    server,
                    "/jobs?limit=30&namespace=" + one.namespace());
            pair("a job", () -> history.job(one), server, "/jobs/" + one.namespace() + "/" + one.name());
            pair(
                    "a page of runs",
                    () -> history.runs(RunFilter.newest(PAGE + 1).of(one)),
                    server,
                    "/runs?limit=30&job=" + one);
            pair("a run", () -> history.run(run.id()), server, "/runs/" + run.id());
            load(() -> history.job(one), server, "/jobs/" + one.namespace() + "/" + one.name());
        }
    }

    /** In turn, so that both meet the same machine. */
    private static void pair(String what, Callable<?> bare, HttpServer server, String path) throws Exception {
        List<Double> alone = new ArrayList<>();
        List<Double> overHttp = new ArrayList<>();
        try (RawClient client = new RawClient(server.address(), "/api/v1" + path, KEY)) {
            for (int i = 0; i < LOOKS; i++) {
                long began = System.nanoTime();
                bare.call();
                alone.add((System.nanoTime() - began) / 1e6);
                began = System.nanoTime();
                client.ask();
                overHttp.add((System.nanoTime() - began) / 1e6);
            }
        }
        System.out.printf(
                Locale.ROOT,
                "%-18s the look-up %.2f ms, over HTTP %.2f ms (twice and 2 ms: %.2f)%n",
                what,
                Figures.median(alone),
                Figures.median(overHttp),
                2 * Figures.median(alone) + 2);
    }

    private interface Asking extends AutoCloseable {
        void ask() throws Exception;

        @Override
        default void close() throws IOException {
            // Nothing was opened.
        }
    }

    /** In turn, warm, so that both meet the same machine. */
    private static void load(Callable<?> bare, HttpServer server, String path) throws Exception {
        Callable<Asking> asking = () -> {
            RawClient client = new RawClient(server.address(), "/api/v1" + path, KEY);
            return client::ask;
        };
        rate(() -> bare::call);
        rate(asking);
        List<Double> alone = new ArrayList<>();
        List<Double> overHttp = new ArrayList<>();
        for (int i = 0; i < ROUNDS; i++) {
            alone.add(rate(() -> bare::call));
            overHttp.add(rate(asking));
        }
        System.out.printf(
                Locale.ROOT,
                "%d clients at once, a job each time: %.0f look-ups/s, %.0f requests/s (%.0f to %.0f in %d rounds)%n",
                CLIENTS,
                Figures.median(alone),
                Figures.median(overHttp),
                Figures.quantile(overHttp, 0),
                Figures.quantile(overHttp, 1),
                ROUNDS);
    }

    private static double rate(Callable<Asking> clients) throws Exception {
        ExecutorService threads = Executors.newFixedThreadPool(CLIENTS);
        AtomicLong answered = new AtomicLong();
        AtomicBoolean over = new AtomicBoolean();
        List<Future<?>> all = new ArrayList<>();
        for (int i = 0; i < CLIENTS; i++) {
            all.add(threads.submit(() -> {
                try (Asking client = clients.call()) {
                    while (!over.get()) {
                        client.ask();
                        answered.incrementAndGet();
                    }
                }
                return null;
            }));
        }
        long began = System.nanoTime();
        TimeUnit.SECONDS.sleep(SECONDS);
        double rate = answered.get() / ((System.nanoTime() - began) / 1e9);
        over.set(true);
        for (Future<?> each : all) {
            each.get(1, TimeUnit.MINUTES);
        }
        threads.shutdown();
        return rate;
    }

    // Streams.

    private static void streams(Brume brume) throws Exception {
        brume.handler("boards", run -> {});
        List<Job> jobs = new ArrayList<>();
        for (int i = 0; i < 10 * RUNS_A_SECOND; i++) {
            jobs.add(Job.named(new JobName("harbour", "job-" + i))
                    .schedule(EverySchedule.of(Duration.ofSeconds(10)).withZone(ZONE))
                    .spread(Duration.ofSeconds(9))
                    .handler("boards")
                    .build());
        }
        brume.define(jobs, "benchmark");
        try (HttpServer server = serve(brume);
                StreamClients clients = new StreamClients(server.address(), KEY)) {
            for (int i = 0; i < WHOLE; i++) {
                clients.open("/api/v1/events");
                TimeUnit.MILLISECONDS.sleep(i == 0 ? 1_000 : 10);
            }
            for (int i = 0; i < FILTERED; i++) {
                clients.open("/api/v1/events?job=harbour/job-" + i);
                TimeUnit.MILLISECONDS.sleep(5);
            }
            brume.start();
            TimeUnit.SECONDS.sleep(SECONDS / 3 + 1);
            System.gc();
            long used = memory();
            clients.measure();
            Instant began = Instant.now();
            TimeUnit.SECONDS.sleep(SECONDS);
            clients.awaitSome();
            double seconds = Duration.between(began, Instant.now()).toMillis() / 1e3;
            List<Double> delays = clients.delays();
            System.gc();
            System.out.printf(
                    Locale.ROOT,
                    "%d whole streams and %d of one job each: %.0f events/s made, %.0f told; from shortly before the commit to the client"
                            + " p50 %.0f ms, p99 %.0f ms; heap %d MB at first, %d MB in the end; %d cut%n",
                    WHOLE,
                    FILTERED,
                    clients.ofOneWhole() / seconds,
                    delays.size() / seconds,
                    Figures.quantile(delays, 0.5),
                    Figures.quantile(delays, 0.99),
                    used >> 20,
                    memory() >> 20,
                    clients.cut());
        }
    }

    private static long memory() {
        return Runtime.getRuntime().totalMemory() - Runtime.getRuntime().freeMemory();
    }
}
