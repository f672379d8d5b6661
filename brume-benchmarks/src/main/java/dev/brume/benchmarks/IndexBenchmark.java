package dev.brume.benchmarks;

import com.zaxxer.hikari.HikariDataSource;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;

/**
 * What each index of live runs and of the ledger costs, on PostgreSQL: runs are added, claimed and ended by one thread with it and without it, in
 * turns; how long a run takes, and what it adds to the server's log. What finds rows by an index is slower without it, so that a negative
 * cost is what the index saves.
 */
public final class IndexBenchmark {
    private static final int ROUNDS = Scale.number("rounds", 5, 1);
    private static final double SECONDS = Scale.seconds(2);
    private static final List<String> TABLES = List.of("brume_run", "brume_ledger");

    private final HikariDataSource pool;
    private final StoreCycle cycle;

    private record Index(String name, String definition) {}

    private record Cost(double micros, double bytes) {}

    private IndexBenchmark(HikariDataSource pool, StoreCycle cycle) {
        this.pool = pool;
        this.cycle = cycle;
    }

    /** Runs the benchmark and prints its figures. */
    public static void main(String[] args) throws Exception {
        try (Server server = new Server();
                HikariDataSource pool = server.pool(4)) {
            IndexBenchmark benchmark = new IndexBenchmark(pool, new StoreCycle(server.freshStore(pool, "indexed")));
            // Pages that are written for the first time after a checkpoint go to the log as a whole.
            benchmark.cycle.runsPerSecond(5 * SECONDS);
            for (Index index : benchmark.indexes()) {
                benchmark.compare(index);
            }
        }
    }

    /** Those that can go: what a primary key or a partition's own is stays. */
    private List<Index> indexes() throws Exception {
        List<Index> found = new ArrayList<>();
        for (String table : TABLES) {
            try (Connection connection = pool.getConnection();
                    Statement statement = connection.createStatement();
                    ResultSet rows =
                            statement.executeQuery("select indexname, indexdef from pg_indexes where schemaname ="
                                    + " 'indexed' and tablename = '" + table
                                    + "' and indexname not like '%pkey' order by 1")) {
                while (rows.next()) {
                    found.add(new Index(rows.getString(1), rows.getString(2).replace(" ON ONLY ", " ON ")));
                }
            }
        }
        return found;
    }

    private void compare(Index index) throws Exception {
        List<Double> micros = new ArrayList<>();
        List<Double> bytes = new ArrayList<>();
        for (int i = 0; i < ROUNDS; i++) {
            Cost with = measure();
            execute("drop index indexed." + index.name);
            Cost without = measure();
            execute(index.definition);
            micros.add(with.micros - without.micros);
            bytes.add(with.bytes - without.bytes);
        }
        System.out.printf(
                Locale.ROOT,
                "%-26s %6.1f us and %5.0f bytes of log a run%n",
                index.name,
                Figures.median(micros),
                Figures.median(bytes));
    }

    private Cost measure() throws Exception {
        cycle.runsPerSecond(SECONDS / 4);
        long before = log();
        double rate = cycle.runsPerSecond(SECONDS);
        return new Cost(1e6 / rate, (log() - before) / (rate * SECONDS));
    }

    private long log() throws Exception {
        try (Connection connection = pool.getConnection();
                Statement statement = connection.createStatement();
                ResultSet row =
                        statement.executeQuery("select (pg_current_wal_insert_lsn() - '0/0'::pg_lsn)::bigint")) {
            row.next();
            return row.getLong(1);
        }
    }

    private void execute(String sql) throws Exception {
        try (Connection connection = pool.getConnection();
                Statement statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }
}
