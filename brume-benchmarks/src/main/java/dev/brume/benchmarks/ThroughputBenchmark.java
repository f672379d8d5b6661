package dev.brume.benchmarks;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.jdbc.JdbcStore;
import java.sql.Connection;
import java.util.ArrayList;
import java.util.List;

/**
 * Recurring runs per second through the whole engine on PostgreSQL, ledger written, beside the raw
 * cycle before and after it: medians and the ratio of each pair. What a run adds to the server's log is told beside it; that
 * figure does not depend on how busy the machine is.
 */
public final class ThroughputBenchmark {
    private static final int JOBS = Scale.number("jobs", RawCycle.JOBS, 300);
    private static final int INSTANCES = Integer.getInteger("instances", 1);
    private static final int BATCH = Integer.getInteger("batch", 500);
    private static final int WORKERS = Integer.getInteger("workers", 256);
    private static final int PAIRS = Scale.number("pairs", 5, 1);
    private static final double RAW_SECONDS = Scale.seconds(3);
    private static final double WARM_UP_SECONDS = Scale.seconds("warmUp", 25);
    private static final double AGAIN_SECONDS = Scale.seconds(6);
    private static final double ENGINE_SECONDS = Scale.seconds(5);

    private static double rawLog;
    private static double engineLog;

    private ThroughputBenchmark() {}

    /** Runs the benchmark and prints its figures. */
    public static void main(String[] args) throws Exception {
        try (Server server = new Server();
                HikariDataSource pool = server.pool(16)) {
            List<Double> raws = new ArrayList<>();
            List<Double> engines = new ArrayList<>();
            List<Double> ratios = new ArrayList<>();
            double before = raw(server, pool);
            for (int pair = 0; pair < PAIRS; pair++) {
                double engine = engine(server, pool, pair == 0 ? WARM_UP_SECONDS : AGAIN_SECONDS);
                double after = raw(server, pool);
                double raw = (before + after) / 2;
                before = after;
                raws.add(raw);
                engines.add(engine);
                ratios.add(engine / raw);
                System.out.printf(
                        "pair %d: raw %,.0f runs/s, engine %,.0f runs/s, ratio %.2f; log per run: raw %,.0f bytes, engine %,.0f%n",
                        pair + 1, raw, engine, engine / raw, rawLog, engineLog);
            }
            double single = single(server, pool);
            System.out.printf(
                    "medians: raw batch %,.0f/s, engine %,.0f/s (%d instances, %d jobs, batch %d, %d workers), ratio %.2f;"
                            + " raw one at a time %,.0f/s, engine %.1f times that%n",
                    Figures.median(raws),
                    Figures.median(engines),
                    INSTANCES,
                    JOBS,
                    BATCH,
                    WORKERS,
                    Figures.median(ratios),
                    single,
                    Figures.median(engines) / single);
        }
    }

    /** The best of a few shapes of the raw cycle. */
    private static double raw(Server server, HikariDataSource pool) throws Exception {
        RawCycle cycle = freshCycle(server, pool);
        cycle.measure(1, BATCH, Scale.seconds(1));
        long log = log(pool);
        double single = cycle.measure(1, BATCH, RAW_SECONDS);
        rawLog = (log(pool) - log) / (single * RAW_SECONDS);
        return Math.max(single, cycle.measure(2, BATCH, RAW_SECONDS));
    }

    private static RawCycle freshCycle(Server server, HikariDataSource pool) throws Exception {
        server.freshStore(pool, "raw");
        try (Connection connection = pool.getConnection();
                var statement = connection.createStatement()) {
            statement.execute("insert into raw.brume_job (namespace, name, version, source, cursor_at, cap, lane)"
                    + " select 'main', 'job-' || i, 1, 'raw', now(), 1, 'main' from generate_series(1, "
                    + RawCycle.JOBS
                    + ") as g(i)");
            statement.execute("vacuum analyze raw.brume_job");
        }
        return new RawCycle(pool, "raw");
    }

    private static double single(Server server, HikariDataSource pool) throws Exception {
        RawCycle cycle = freshCycle(server, pool);
        cycle.measure(2, 1, Scale.seconds(1));
        return Math.max(cycle.measure(1, 1, RAW_SECONDS), cycle.measure(4, 1, RAW_SECONDS));
    }

    private static double engine(Server server, HikariDataSource pool, double warmUp) throws Exception {
        JdbcStore store = server.freshStore(pool, "engine");
        List<Long> logs = new ArrayList<>();
        EngineRun run = new EngineRun(store, INSTANCES, WORKERS, BATCH);
        run.define(JOBS, 0);
        vacuum(pool);
        double rate = run.measure(warmUp, ENGINE_SECONDS, () -> {
            logs.add(log(pool));
            return ledgerLines(pool);
        });
        engineLog = (logs.get(1) - logs.get(0)) / (rate * ENGINE_SECONDS);
        return rate;
    }

    /** How much the server has written to its log so far, in bytes. */
    private static long log(HikariDataSource pool) throws Exception {
        return number(pool, "select (pg_current_wal_insert_lsn() - '0/0'::pg_lsn)::bigint");
    }

    private static void vacuum(HikariDataSource pool) throws Exception {
        try (Connection connection = pool.getConnection();
                var statement = connection.createStatement()) {
            statement.execute("vacuum analyze engine.brume_job");
            statement.execute("vacuum analyze engine.brume_definition");
        }
    }

    private static long ledgerLines(HikariDataSource pool) throws Exception {
        return number(pool, "select count(*) from engine.brume_ledger where outcome = 'SUCCEEDED'");
    }

    private static long number(HikariDataSource pool, String query) throws Exception {
        try (Connection connection = pool.getConnection();
                var statement = connection.createStatement();
                var rows = statement.executeQuery(query)) {
            rows.next();
            return rows.getLong(1);
        }
    }
}
