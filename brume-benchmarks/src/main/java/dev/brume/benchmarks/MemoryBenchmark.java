package dev.brume.benchmarks;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Brume;
import dev.brume.jdbc.JdbcStore;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;

/**
 * What an instance keeps in memory, on PostgreSQL: with a million definitions, and over ten million runs. The heap is read after a
 * collection, every few seconds, of which the least counts: a sweep that sums up the ledger holds more for a while. Whether it grows is seen from the
 * first and the second half of the runs.
 */
public final class MemoryBenchmark {
    private static final int FAR = Scale.number("far", 1_000_000, 300);
    private static final int DUE = Scale.number("due", 8_000, 300);
    private static final long RUNS = Scale.number("runs", 10_000_000, 1_000);
    private static final int PARTS = 10;
    private static final double STEP = Scale.seconds(5);

    private MemoryBenchmark() {}

    /** Runs the benchmark and prints its figures. */
    public static void main(String[] args) throws Exception {
        List<String> wanted = args.length == 0 ? List.of("definitions", "runs") : List.of(args);
        try (Server server = new Server();
                HikariDataSource pool = server.pool(16)) {
            if (wanted.contains("definitions")) {
                definitions(server, pool);
            }
            if (wanted.contains("runs")) {
                runs(server, pool);
            }
        }
    }

    private static void definitions(Server server, HikariDataSource pool) throws Exception {
        long[] heaps = new long[2];
        for (int i = 0; i < heaps.length; i++) {
            int far = i == 0 ? 0 : FAR;
            JdbcStore store = server.freshStore(pool, "defined");
            EngineRun engine = new EngineRun(store, 1, 100, 500);
            engine.define(DUE, far);
            try (Brume brume =
                    Brume.on(store).instance("office").workers(100).withoutLog().build()) {
                brume.handler("nothing", run -> {});
                brume.start();
                EngineRun.pause(Scale.seconds(30));
                heaps[i] = heap();
                System.out.printf(
                        Locale.ROOT,
                        "%,d jobs due every second, %,d that are not: heap %,.1f MB%n",
                        DUE,
                        far,
                        heaps[i] / 1e6);
                brume.stop(Duration.ofSeconds(10));
            }
        }
        System.out.printf(
                Locale.ROOT, "for each of %,d definitions: %.0f bytes%n", FAR, (heaps[1] - heaps[0]) / (double) FAR);
    }

    private static void runs(Server server, HikariDataSource pool) throws Exception {
        JdbcStore store = server.freshStore(pool, "running");
        new EngineRun(store, 1, 500, 500).define(DUE, 0);
        List<Long> heaps = new ArrayList<>();
        try (Brume brume = Brume.on(store)
                .instance("office")
                .workers(500)
                .batch(500)
                .withoutLog()
                .build()) {
            brume.handler("nothing", run -> {});
            brume.start();
            for (int part = 1; part <= PARTS; part++) {
                long least = Long.MAX_VALUE;
                while (ended(pool) < RUNS / PARTS * part) {
                    EngineRun.pause(STEP);
                    least = Math.min(least, heap());
                }
                heaps.add(Math.min(least, heap()));
                System.out.printf(
                        Locale.ROOT,
                        "after %,d runs: heap at least %,.1f MB, resident %,.0f MB%n",
                        ended(pool),
                        heaps.get(part - 1) / 1e6,
                        resident() / 1e6);
            }
            brume.stop(Duration.ofSeconds(10));
        }
        System.out.printf(
                Locale.ROOT,
                "median heap of the first half %,.1f MB, of the second %,.1f MB%n",
                median(heaps.subList(0, PARTS / 2)),
                median(heaps.subList(PARTS / 2, PARTS)));
    }

    private static double median(List<Long> bytes) {
        return Figures.median(bytes.stream().map(Long::doubleValue).toList()) / 1e6;
    }

    /** Counted from the numbers that were given out, as counting lines would take longer than the runs. */
    private static long ended(HikariDataSource pool) throws Exception {
        try (Connection connection = pool.getConnection();
                var statement = connection.createStatement();
                var row = statement.executeQuery(
                        "select greatest(coalesce(max(run_id), 0) - (select count(*) from running.brume_run), 0)"
                                + " from running.brume_ledger")) {
            row.next();
            return row.getLong(1);
        }
    }

    private static long heap() {
        System.gc();
        return Runtime.getRuntime().totalMemory() - Runtime.getRuntime().freeMemory();
    }

    /** What the system has given the process; 0 where it does not say so. */
    private static long resident() throws Exception {
        Path status = Path.of("/proc/self/status");
        return Files.exists(status)
                ? Files.readAllLines(status).stream()
                        .filter(line -> line.startsWith("VmRSS:"))
                        .mapToLong(line -> Long.parseLong(line.replaceAll("\\D", "")) * 1024)
                        .findFirst()
                        .orElse(0)
                : 0;
    }
}
