package dev.brume.benchmarks;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Brume;
import dev.brume.Job;
import dev.brume.benchmarks.StartTrace.Step;
import dev.brume.jdbc.JdbcStore;
import dev.brume.schedule.EverySchedule;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Queue;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.locks.LockSupport;

/**
 * Where the time goes between the instant that an occurrence is planned for and the first line of its handler, at so many runs a second on
 * PostgreSQL: the wait until the planner turns to it, each statement of the transaction that plans it with what Java does before it, the
 * commit, and the way to the worker.
 */
public final class PhasesBenchmark {
    private static final int RATE = Scale.number("rate", 100, 20);
    private static final int SECONDS = Scale.number("seconds", 15, 1);
    private static final int SETTLING_SECONDS = Scale.number("settling", 15, 1);
    private static final int SHOWN = 70;

    private PhasesBenchmark() {}

    private record Start(Instant planned, Instant begun) {}

    /** Runs the benchmark and prints the median of each phase, in milliseconds, in order. */
    public static void main(String[] args) throws Exception {
        try (Server server = new Server();
                HikariDataSource pool = server.pool(16)) {
            server.freshStore(pool, "phases");
            StartTrace trace = new StartTrace();
            JdbcStore store =
                    JdbcStore.builder(trace.around(pool)).schema("phases").build();
            Queue<Start> starts = new ConcurrentLinkedQueue<>();
            try (Brume brume = Brume.on(store).instance("bench").workers(32).build()) {
                brume.handler("note", run -> starts.add(new Start(run.planned(), Instant.now())));
                brume.define(jobs(), "benchmark");
                brume.start();
                sleep(SETTLING_SECONDS);
                trace.take();
                starts.clear();
                sleep(SECONDS);
                report(List.copyOf(starts), trace.take());
                brume.stop(Duration.ofSeconds(5));
            }
        }
    }

    private static List<Job> jobs() {
        List<Job> jobs = new ArrayList<>();
        for (int i = 0; i < RATE; i++) {
            EverySchedule every =
                    EverySchedule.of(Duration.ofSeconds(1)).withAnchor(Instant.EPOCH.plusMillis(i * 1000L / RATE));
            jobs.add(Job.named("job-" + i).schedule(every).handler("note").build());
        }
        return jobs;
    }

    private static void report(List<Start> starts, List<List<Step>> transactions) {
        List<List<Step>> planning = transactions.stream()
                .filter(steps -> steps.stream()
                        .anyMatch(step -> step.what().toLowerCase(Locale.ROOT).startsWith("insert into")
                                && step.what().contains("brume_run ")))
                .sorted(Comparator.comparing(PhasesBenchmark::end))
                .toList();
        Map<String, List<Double>> phases = new LinkedHashMap<>();
        List<Double> whole = new ArrayList<>();
        for (Start start : starts) {
            planned(planning, start).ifPresent(steps -> {
                Instant last = start.planned;
                int number = 0;
                for (Step step : steps) {
                    number++;
                    String name = number + " " + shortened(step.what());
                    add(
                            phases,
                            (number == 1 ? "0 planned, to the first of it" : name + ": before"),
                            last,
                            step.begin());
                    add(phases, name, step.begin(), step.end());
                    last = step.end();
                }
                add(phases, "committed, to the handler", last, start.begun);
                whole.add(millis(start.planned, start.begun));
            });
        }
        System.out.printf(
                Locale.ROOT,
                "%d starts, %d traced; the whole: median %.2f ms%n",
                starts.size(),
                whole.size(),
                Figures.median(whole));
        phases.forEach((name, times) ->
                System.out.printf(Locale.ROOT, "%7.3f ms of %5d  %s%n", Figures.median(times), times.size(), name));
    }

    /** The last planning transaction that was committed before a run began, if it began after the run was planned for. */
    private static Optional<List<Step>> planned(List<List<Step>> planning, Start start) {
        return planning.stream()
                .filter(steps -> !end(steps).isAfter(start.begun) && end(steps).isAfter(start.planned))
                .reduce((first, second) -> second);
    }

    private static Instant end(List<Step> steps) {
        return steps.get(steps.size() - 1).end();
    }

    private static void add(Map<String, List<Double>> phases, String name, Instant from, Instant until) {
        phases.computeIfAbsent(name, any -> new ArrayList<>()).add(millis(from, until));
    }

    private static double millis(Instant from, Instant until) {
        return Duration.between(from, until).toNanos() / 1e6;
    }

    private static String shortened(String sql) {
        String line = sql.replaceAll("\\s+", " ").trim();
        return line.length() <= SHOWN ? line : line.substring(0, SHOWN);
    }

    private static void sleep(int seconds) {
        long until = System.nanoTime() + seconds * 1_000_000_000L;
        while (System.nanoTime() - until < 0) {
            LockSupport.parkNanos(until - System.nanoTime());
        }
    }
}
