package dev.brume.benchmarks;

import java.util.Locale;
import org.openjdk.jmh.results.RunResult;
import org.openjdk.jmh.runner.Runner;
import org.openjdk.jmh.runner.RunnerException;
import org.openjdk.jmh.runner.options.OptionsBuilder;
import org.openjdk.jmh.runner.options.TimeValue;

/** Measures what something costs each run, by the harness, and prints a line for each of a benchmark's methods. */
final class Runs {
    private static final TimeValue ITERATION = TimeValue.milliseconds(Scale.number("millis", 1000, 20));

    private Runs() {}

    static void measure(Class<?> benchmark) throws RunnerException {
        for (RunResult result : new Runner(new OptionsBuilder()
                        .include(benchmark.getSimpleName())
                        .forks(Scale.number("forks", 2, 0))
                        .warmupIterations(Scale.number("warmUps", 3, 1))
                        .warmupTime(ITERATION)
                        .measurementIterations(Scale.number("rounds", 5, 1))
                        .measurementTime(ITERATION)
                        .build())
                .run()) {
            System.out.println(String.format(
                    Locale.ROOT,
                    "%-18s %10.1f ns a run",
                    result.getParams().getBenchmark().replaceFirst(".*\\.", ""),
                    result.getPrimaryResult().getScore()));
        }
    }
}
