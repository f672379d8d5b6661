package dev.brume.benchmarks;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;

/** Benchmarks on PostgreSQL still run; their figures are another matter. */
@Tag("long")
class PostgresBenchmarksTest {
    @Test
    void throughput() throws Exception {
        assertThat(Printed.by(ThroughputBenchmark::main)).containsPattern("medians: raw batch [1-9].* ratio [0-9]");
    }

    @Test
    void lateness() throws Exception {
        assertThat(Printed.by(LatenessBenchmark::main)).containsPattern("pair 1: floor p50 .* ratio p50 [0-9]");
    }

    @Test
    void notices() throws Exception {
        assertThat(Printed.by(NoticeBenchmark::main))
                .containsPattern("ratio with a rule on every job [0-9]")
                .containsPattern("latency: ([1-9]\\d*) of \\1 failed runs told")
                .containsPattern("made 1 notices");
    }

    @Test
    void looking() throws Exception {
        assertThat(Printed.by(LookingBenchmark::main)).containsPattern("the slowest answer of all: [0-9]");
    }
}
