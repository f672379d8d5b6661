package dev.brume.benchmarks;

import com.sun.net.httpserver.HttpServer;
import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Brume;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.JobScope;
import dev.brume.OneOff;
import dev.brume.history.NoticeFilter;
import dev.brume.history.RunFilter;
import dev.brume.jdbc.JdbcStore;
import dev.brume.notice.Channel;
import dev.brume.notice.NoticeKind;
import dev.brume.notice.NoticeRule;
import dev.brume.notice.Telling;
import dev.brume.notice.Way;
import dev.brume.notices.Senders;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * What telling costs and how soon it tells: throughput with a rule on every job as a ratio of that without, the time from the end of a failed run to the
 * webhook's arrival beside a thousand runs a second, and how many notices come of many failures of one cause.
 */
public final class NoticeBenchmark {
    private static final int JOBS = Scale.number("jobs", RawCycle.JOBS, 300);
    private static final int PAIRS = Scale.number("pairs", 5, 1);
    private static final int WORKERS = Integer.getInteger("workers", 256);
    private static final int BATCH = Integer.getInteger("batch", 500);
    private static final int FAILING = Scale.number("failing", 200, 5);
    private static final int BESIDE = Scale.number("beside", 1000, 50);
    private static final int FAILURES = Scale.number("failures", 100_000, 500);
    private static final Pattern ENDED = Pattern.compile("\"endedAt\":\"([^\"]+)\"");
    private static final double WARM_UP = Scale.seconds("warmUp", 15);
    private static final double AGAIN = Scale.seconds(6);
    private static final double SECONDS = Scale.seconds("seconds", 5);

    private NoticeBenchmark() {}

    /** Runs the benchmark and prints its figures. */
    public static void main(String[] args) throws Exception {
        try (Server server = new Server();
                HikariDataSource pool = server.pool(24)) {
            throughput(server, pool);
            latency(server, pool);
            folding(server, pool);
        }
    }

    private static Telling all(NoticeKind... kinds) {
        return Telling.NOTHING
                .with(Channel.named("/duty", new Way.Log()))
                .with(NoticeRule.named("/all").tell(kinds).to("duty"));
    }

    // Throughput.

    private static void throughput(Server server, HikariDataSource pool) throws Exception {
        List<Double> ratios = new ArrayList<>();
        List<Double> without = new ArrayList<>();
        double before = engine(server, pool, Telling.NOTHING, WARM_UP);
        for (int pair = 0; pair < PAIRS; pair++) {
            double with = engine(
                    server,
                    pool,
                    all(NoticeKind.FAILED, NoticeKind.MISSED, NoticeKind.LOST, NoticeKind.ATTEMPT_FAILED),
                    AGAIN);
            double after = engine(server, pool, Telling.NOTHING, AGAIN);
            double plain = (before + after) / 2;
            before = after;
            without.add(plain);
            ratios.add(with / plain);
            System.out.printf(
                    "pair %d: without rules %,.0f runs/s, with a rule on every job %,.0f runs/s, ratio %.3f%n",
                    pair + 1, plain, with, with / plain);
        }
        System.out.printf(
                "medians: without rules %,.0f runs/s (%d jobs), ratio with a rule on every job %.3f%n",
                Figures.median(without), JOBS, Figures.median(ratios));
    }

    private static double engine(Server server, HikariDataSource pool, Telling telling, double warmUp)
            throws Exception {
        JdbcStore store = server.freshStore(pool, "telling");
        EngineRun run = new EngineRun(store, 1, WORKERS, BATCH);
        run.define(JOBS, 0);
        if (!telling.isEmpty()) {
            try (Brume definer = Brume.on(store).instance("bench-teller").build()) {
                definer.tell("benchmark", telling);
            }
        }
        try (Connection connection = pool.getConnection();
                var statement = connection.createStatement()) {
            statement.execute("vacuum analyze telling.brume_job");
        }
        return run.measure(warmUp, SECONDS, () -> ledger(pool));
    }

    private static long ledger(HikariDataSource pool) throws Exception {
        try (Connection connection = pool.getConnection();
                var statement = connection.createStatement();
                var rows = statement.executeQuery(
                        "select count(*) from telling.brume_ledger where outcome = 'SUCCEEDED'")) {
            rows.next();
            return rows.getLong(1);
        }
    }

    // Latency.

    private static void latency(Server server, HikariDataSource pool) throws Exception {
        List<Double> millis = Collections.synchronizedList(new ArrayList<>());
        HttpServer receiver = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 0);
        ExecutorService answering = Executors.newFixedThreadPool(4);
        receiver.setExecutor(answering);
        receiver.createContext("/", exchange -> {
            Instant arrived = Instant.now();
            Matcher ended = ENDED.matcher(new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8));
            if (ended.find()) {
                millis.add(
                        Duration.between(Instant.parse(ended.group(1)), arrived).toNanos() / 1e6);
            }
            exchange.sendResponseHeaders(204, -1);
            exchange.close();
        });
        receiver.start();
        JdbcStore store = server.freshStore(pool, "telling");
        Brume.Builder builder = Brume.on(store).withoutLog().workers(WORKERS);
        Senders.ofNetwork().forEach(builder::sending);
        try (Brume brume = builder.build()) {
            defineLatency(brume, "http://127.0.0.1:" + receiver.getAddress().getPort() + "/");
            brume.start();
            EngineRun.pause(Scale.seconds(5));
            long begun = brume.history().runs(RunFilter.newest(1)).get(0).id();
            Instant from = Instant.now();
            for (int i = 0; i < FAILING; i++) {
                brume.oneOffs()
                        .add(OneOff.of(JobName.parse("fail-" + i), "once").at(Instant.now()));
                EngineRun.pause(0.1);
            }
            double seconds = Duration.between(from, Instant.now()).toMillis() / 1000.0;
            long ended = brume.history().runs(RunFilter.newest(1)).get(0).id();
            long until = System.nanoTime() + 60_000_000_000L;
            while (millis.size() < FAILING && System.nanoTime() < until) {
                EngineRun.pause(0.05);
            }
            System.out.printf(
                    "latency: %d of %d failed runs told beside %,.0f runs/s; from the run's end to the webhook's arrival"
                            + " median %.0f ms, p99 %.0f ms, most %.0f ms%n",
                    millis.size(),
                    FAILING,
                    (ended - begun) / seconds,
                    Figures.median(List.copyOf(millis)),
                    Figures.quantile(List.copyOf(millis), 0.99),
                    Figures.quantile(List.copyOf(millis), 1.0));
        } finally {
            receiver.stop(0);
            answering.shutdown();
        }
    }

    /** Each that fails has a channel of its own, or many at once would be told as one. */
    private static void defineLatency(Brume brume, String url) {
        brume.handler("nothing", run -> {});
        brume.handler("fails", run -> {
            throw new IllegalStateException("no tide");
        });
        List<Job> jobs = new ArrayList<>();
        for (int i = 0; i < BESIDE; i++) {
            jobs.add(Job.named("job-" + i)
                    .every(Duration.ofSeconds(1))
                    .handler("nothing")
                    .ifBusy(IfBusy.alongside(IfBusy.MOST))
                    .build());
        }
        Telling telling = Telling.NOTHING;
        for (int i = 0; i < FAILING; i++) {
            jobs.add(Job.named("fail-" + i).handler("fails").build());
            telling = telling.with(Channel.named("c-" + i, Way.Webhook.to(url)))
                    .with(NoticeRule.named("r-" + i)
                            .tell(NoticeKind.FAILED)
                            .of(JobScope.job("fail-" + i))
                            .to("c-" + i));
        }
        brume.define(jobs, "benchmark");
        brume.tell("benchmark", telling);
    }

    // Folding.

    private static void folding(Server server, HikariDataSource pool) throws Exception {
        JdbcStore store = server.freshStore(pool, "telling");
        try (Brume brume = Brume.on(store).withoutLog().workers(WORKERS).build()) {
            brume.handler("fails", run -> {
                throw new IllegalStateException("no tide");
            });
            JobName name = JobName.parse("fails");
            brume.define(Job.named(name)
                    .handler("fails")
                    .ifBusy(IfBusy.alongside(IfBusy.MOST))
                    .build());
            brume.tell("benchmark", all(NoticeKind.FAILED));
            brume.start();
            long begin = System.nanoTime();
            for (int i = 0; i < FAILURES; i++) {
                brume.oneOffs().add(OneOff.of(name, "order-" + i).at(Instant.EPOCH.plus(Duration.ofDays(20_000))));
            }
            long until = System.nanoTime() + 600_000_000_000L;
            while (failed(pool) < FAILURES && System.nanoTime() < until) {
                EngineRun.pause(0.5);
            }
            double seconds = (System.nanoTime() - begin) / 1e9;
            while (brume.history().noticeFigures().undecided() > 0 && System.nanoTime() < until) {
                EngineRun.pause(0.1);
            }
            System.out.printf(
                    "folding: %,d failures of one cause within %.0f s made %d notices, %,d are folded%n",
                    failed(pool),
                    seconds,
                    brume.history().notices(NoticeFilter.newest(1000)).size(),
                    brume.history().noticeFigures().folded());
        }
    }

    private static long failed(HikariDataSource pool) throws Exception {
        try (Connection connection = pool.getConnection();
                var statement = connection.createStatement();
                var rows =
                        statement.executeQuery("select count(*) from telling.brume_ledger where outcome = 'FAILED'")) {
            rows.next();
            return rows.getLong(1);
        }
    }
}
