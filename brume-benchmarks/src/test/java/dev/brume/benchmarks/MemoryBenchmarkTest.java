package dev.brume.benchmarks;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.api.Test;

class MemoryBenchmarkTest {
    @Test
    void itRuns() throws Exception {
        assertThat(Printed.by(MemoryBenchmark::main))
                .contains("for each of 300 definitions: ")
                .contains("after 1,")
                .contains("median heap of the first half ");
    }
}
