package dev.brume.benchmarks;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;

/** The benchmark of what an instance keeps in memory still runs, in a process of its own. */
@Tag("long")
class MemoryBenchmarkTest {
    @Test
    void memory() throws Exception {
        assertThat(Printed.by(MemoryBenchmark::main))
                .contains("for each of 300 definitions: ")
                .contains("after 1,")
                .contains("median heap of the first half ");
    }
}
