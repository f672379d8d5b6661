package dev.brume.benchmarks;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Brume;
import dev.brume.Job;
import dev.brume.jdbc.JdbcStore;
import dev.brume.schedule.EverySchedule;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Queue;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.locks.LockSupport;

/**
 * How late runs start at 100 runs a second, or as many as {@code -Drate} says, beside the floor: sleeping until due, then one update
 * committed on the same server.
 */
public final class LatenessBenchmark {
    private static final int RATE = Scale.number("rate", 100, 100);
    private static final int SECONDS = Scale.number("seconds", 15, 1);
    private static final int SETTLING_SECONDS = Scale.number("settling", 3, 1);
    private static final int PAIRS = Scale.number("pairs", 3, 1);

    private LatenessBenchmark() {}

    /** Runs the benchmark and prints its figures, in milliseconds. */
    public static void main(String[] args) throws Exception {
        try (Server server = new Server();
                HikariDataSource pool = server.pool(16)) {
            for (int pair = 0; pair < PAIRS; pair++) {
                long[] floor = floor(server, pool);
                long[] engine = engine(server, pool);
                System.out.printf(
                        "pair %d: floor p50 %.2f p99 %.2f ms, engine p50 %.2f p99 %.2f ms, ratio p50 %.1f p99 %.1f%n",
                        pair + 1,
                        Figures.quantile(floor, 0.5) / 1000,
                        Figures.quantile(floor, 0.99) / 1000,
                        Figures.quantile(engine, 0.5) / 1000,
                        Figures.quantile(engine, 0.99) / 1000,
                        Figures.quantile(engine, 0.5) / Figures.quantile(floor, 0.5),
                        Figures.quantile(engine, 0.99) / Figures.quantile(floor, 0.99));
            }
        }
    }

    private static long[] floor(Server server, HikariDataSource pool) throws Exception {
        server.freshStore(pool, "raw");
        long[] late = new long[RATE * SECONDS];
        try (Connection connection = pool.getConnection()) {
            connection.setAutoCommit(false);
            try (PreparedStatement update =
                    connection.prepareStatement("update raw.brume_cluster set epoch = epoch + 1")) {
                Instant due = Instant.now().plusMillis(200);
                for (int i = 0; i < late.length; i++) {
                    due = due.plusMillis(1000 / RATE);
                    for (long left = until(due); left > 0; left = until(due)) {
                        LockSupport.parkNanos(left);
                    }
                    update.executeUpdate();
                    connection.commit();
                    late[i] = due.until(Instant.now(), ChronoUnit.MICROS);
                }
            }
            connection.setAutoCommit(true);
        }
        return late;
    }

    private static long until(Instant due) {
        return Duration.between(Instant.now(), due).toNanos();
    }

    private static long[] engine(Server server, HikariDataSource pool) throws Exception {
        JdbcStore store = server.freshStore(pool, "engine");
        Queue<Long> late = new ConcurrentLinkedQueue<>();
        try (Brume brume = Brume.on(store).instance("bench").workers(32).build()) {
            brume.handler("note", run -> late.add(run.planned().until(Instant.now(), ChronoUnit.MICROS)));
            List<Job> jobs = new ArrayList<>();
            for (int i = 0; i < RATE; i++) {
                EverySchedule every =
                        EverySchedule.of(Duration.ofSeconds(1)).withAnchor(Instant.EPOCH.plusMillis(i * 1000L / RATE));
                jobs.add(Job.named("job-" + i).schedule(every).handler("note").build());
            }
            brume.define(jobs, "benchmark");
            brume.start();
            sleep(SETTLING_SECONDS);
            late.clear();
            sleep(SECONDS);
            long[] all = late.stream().mapToLong(Long::longValue).toArray();
            brume.stop(Duration.ofSeconds(5));
            return all;
        }
    }

    private static void sleep(int seconds) {
        long until = System.nanoTime() + seconds * 1_000_000_000L;
        while (System.nanoTime() - until < 0) {
            LockSupport.parkNanos(until - System.nanoTime());
        }
    }
}
