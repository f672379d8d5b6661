package dev.brume.benchmarks;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.api.Test;

/** The other benchmarks still run; their figures are another matter. */
class OtherBenchmarksTest {
    @Test
    void databases() throws Exception {
        assertThat(Printed.by(DatabasesBenchmark::main))
                .containsPattern("h2, medians: raw [1-9].* engine [1-9]")
                .containsPattern("mariadb, medians: raw [1-9].* engine [1-9]");
    }

    @Test
    void schedules() throws Exception {
        assertThat(Printed.by(ScheduleBenchmark::main))
                .containsPattern("nextNightly .* x floor")
                .containsPattern("countTenYearsOfTwoRules .* x floor")
                .contains("round 5");
    }
}
