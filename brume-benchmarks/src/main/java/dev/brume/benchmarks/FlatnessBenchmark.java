package dev.brume.benchmarks;

import com.zaxxer.hikari.HikariDataSource;
import java.sql.Connection;
import java.util.ArrayList;
import java.util.List;

/**
 * What should cost nothing, on PostgreSQL: claiming and ending runs beside ten million ledger lines, and beside a
 * transaction that someone holds open; and the whole engine with a million jobs, and a million one-offs, that are not due. Each is a ratio to the
 * same on an empty database in the same run, taken in turns.
 */
public final class FlatnessBenchmark {
    private static final int ROUNDS = Scale.number("rounds", 5, 1);
    private static final double SECONDS = Scale.seconds(4);
    private static final int LINES = Scale.number("lines", 10_000_000, 10_000);
    private static final int FAR = Scale.number("far", 1_000_000, 300);
    private static final int DUE = Scale.number("due", 20_000, 300);
    private static final int OWNERS = Scale.number("owners", 5_000, 300);

    private FlatnessBenchmark() {}

    /** Runs the benchmark and prints its figures. */
    public static void main(String[] args) throws Exception {
        List<String> wanted = args.length == 0 ? List.of("ledger", "held", "oneOffs", "jobs") : List.of(args);
        try (Server server = new Server();
                HikariDataSource pool = server.pool(16)) {
            if (wanted.contains("held")) {
                held(server, pool);
            }
            if (wanted.contains("ledger")) {
                ledger(server, pool);
            }
            if (wanted.contains("oneOffs")) {
                oneOffs(server, pool);
            }
            if (wanted.contains("jobs")) {
                jobs(server, pool);
            }
        }
    }

    private static void execute(HikariDataSource pool, String sql) throws Exception {
        try (Connection connection = pool.getConnection();
                var statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    private static void ledger(Server server, HikariDataSource pool) throws Exception {
        StoreCycle empty = new StoreCycle(server.freshStore(pool, "bare"));
        StoreCycle full = new StoreCycle(server.freshStore(pool, "laden"));
        execute(
                pool,
                "select laden.brume_add_months(timestamptz '2020-01-01', timestamptz '2020-01-01' + interval '1 second' * "
                        + LINES + ")");
        execute(
                pool,
                "insert into laden.brume_ledger (run_id, job_id, planned_at, slot, origin, nominal, zone, version, lane,"
                        + " ready_at, outcome, attempt, recorded_at) select -i, 1 + i % 1000, timestamptz '2020-01-01' +"
                        + " i * interval '1 second', '', 'SCHEDULE', '2020-01-01T00:00', 'UTC', 1, 'main', timestamptz"
                        + " '2020-01-01' + i * interval '1 second', 'SUCCEEDED', 1, now() from generate_series(1, "
                        + LINES
                        + ") as g(i)");
        execute(pool, "vacuum analyze laden.brume_ledger");
        compare("beside " + LINES + " ledger lines", empty, full);
    }

    private static void held(Server server, HikariDataSource pool) throws Exception {
        StoreCycle quiet = new StoreCycle(server.freshStore(pool, "quiet"));
        StoreCycle beside = new StoreCycle(server.freshStore(pool, "beside"));
        quiet.runsPerSecond(SECONDS);
        beside.runsPerSecond(SECONDS);
        double before = quiet.runsPerSecond(2 * SECONDS);
        double alone = beside.runsPerSecond(2 * SECONDS);
        try (Connection someone = pool.getConnection();
                var statement = someone.createStatement()) {
            someone.setTransactionIsolation(Connection.TRANSACTION_REPEATABLE_READ);
            someone.setAutoCommit(false);
            statement.executeQuery("select count(*) from beside.brume_run");
            List<Double> rates = new ArrayList<>();
            for (int i = 0; i < ROUNDS; i++) {
                rates.add(beside.runsPerSecond(2 * SECONDS));
            }
            System.out.printf(
                    "beside a held transaction: before %,.0f and %,.0f runs/s, while it is held %s: it takes %.2f times as long"
                            + " at the end%n",
                    before,
                    alone,
                    rates.stream().map(rate -> String.format("%,.0f", rate)).toList(),
                    Math.max(before, alone) / rates.get(rates.size() - 1));
            someone.rollback();
            someone.setAutoCommit(true);
        }
    }

    /** Those that wait are a year away; those that are due are ordered five hundred at a time by a second connection. */
    private static void oneOffs(Server server, HikariDataSource pool) throws Exception {
        EngineRun none = new EngineRun(server.freshStore(pool, "none"), 1, 500, 500);
        EngineRun million = new EngineRun(server.freshStore(pool, "million"), 1, 500, 500);
        none.define(OWNERS, 0);
        million.define(OWNERS, 0);
        String order =
                ".brume_one_off (id, job_id, one_off_key, due_at, ordered_by) select nextval('million.brume_run_number'), 1, ";
        long before = heap();
        execute(
                pool,
                "insert into million" + order
                        + "'far-' || i, now() + interval '1 year' + i * interval '1 second', 'bench'"
                        + " from generate_series(1, " + FAR + ") as g(i)");
        vacuum(pool, "none");
        vacuum(pool, "million");
        execute(pool, "vacuum analyze million.brume_one_off");
        none.measure(Scale.seconds(10), Scale.seconds(1), () -> lines(pool, "none"));
        List<Double> ratios = new ArrayList<>();
        for (int i = 0; i < ROUNDS; i++) {
            double without = withOrders(pool, "none", none, i);
            double with = withOrders(pool, "million", million, i);
            ratios.add(without / with);
            System.out.printf(
                    "one-offs due beside recurring runs: %,.0f runs/s; with %,d more that wait: %,.0f runs/s, %.2f times as long%n",
                    without, FAR, with, without / with);
        }
        System.out.printf(
                "median: %.2f times as long; heap before %,d MB, after %,d MB%n",
                Figures.median(ratios), before >> 20, heap() >> 20);
        execute(pool, "drop schema million cascade");
    }

    private static double withOrders(HikariDataSource pool, String schema, EngineRun engine, int round)
            throws Exception {
        for (int i = 0; i < 20; i++) {
            execute(
                    pool,
                    "insert into " + schema
                            + ".brume_one_off (id, job_id, one_off_key, due_at, ordered_by) select nextval('" + schema
                            + ".brume_run_number'), 1 + i % " + OWNERS
                            + ", 'r" + round
                            + "-" + i
                            + "-' || i, now() + interval '1 second', 'bench' from generate_series(1, 500) as g(i)");
        }
        return engine.measure(Scale.seconds(2), Scale.seconds(5), () -> lines(pool, schema));
    }

    private static long heap() {
        System.gc();
        return Runtime.getRuntime().totalMemory() - Runtime.getRuntime().freeMemory();
    }

    private static void jobs(Server server, HikariDataSource pool) throws Exception {
        EngineRun few = new EngineRun(server.freshStore(pool, "few"), 1, 500, 500);
        EngineRun many = new EngineRun(server.freshStore(pool, "many"), 1, 500, 500);
        few.define(DUE, 0);
        vacuum(pool, "few");
        many.define(DUE, FAR);
        vacuum(pool, "many");
        few.measure(Scale.seconds(20), Scale.seconds(1), () -> lines(pool, "few"));
        List<Double> ratios = new ArrayList<>();
        for (int i = 0; i < ROUNDS; i++) {
            double rateOfFew = few.measure(Scale.seconds(4), Scale.seconds(5), () -> lines(pool, "few"));
            double rateOfMany = many.measure(Scale.seconds(4), Scale.seconds(5), () -> lines(pool, "many"));
            ratios.add(rateOfFew / rateOfMany);
            System.out.printf(
                    "%,d jobs due every second: %,.0f runs/s; with %,d more that are not: %,.0f runs/s, %.2f times as long%n",
                    DUE, rateOfFew, FAR, rateOfMany, rateOfFew / rateOfMany);
        }
        System.out.printf("median: %.2f times as long%n", Figures.median(ratios));
        execute(pool, "drop schema many cascade");
    }

    private static long lines(HikariDataSource pool, String schema) throws Exception {
        try (Connection connection = pool.getConnection();
                var statement = connection.createStatement();
                var rows = statement.executeQuery("select count(*) from " + schema + ".brume_ledger")) {
            rows.next();
            return rows.getLong(1);
        }
    }

    /** What the server would begin by itself, and what would otherwise be measured. */
    private static void vacuum(HikariDataSource pool, String schema) throws Exception {
        execute(pool, "vacuum analyze " + schema + ".brume_job");
        execute(pool, "vacuum analyze " + schema + ".brume_definition");
        execute(pool, "checkpoint");
    }

    private static void compare(String what, StoreCycle bare, StoreCycle laden) {
        bare.runsPerSecond(SECONDS);
        laden.runsPerSecond(SECONDS);
        List<Double> ratios = new ArrayList<>();
        List<Double> rates = new ArrayList<>();
        for (int i = 0; i < ROUNDS; i++) {
            double without = bare.runsPerSecond(SECONDS);
            double with = laden.runsPerSecond(SECONDS);
            rates.add(without);
            ratios.add(without / with);
        }
        System.out.printf(
                "%s: takes %.2f times as long (median of %d pairs; %,.0f runs/s without)%n",
                what, Figures.median(ratios), ROUNDS, Figures.median(rates));
    }
}
