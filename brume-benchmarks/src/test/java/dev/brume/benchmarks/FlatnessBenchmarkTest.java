package dev.brume.benchmarks;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;

/** The benchmark of what should cost nothing still runs, in a process of its own. */
@Tag("long")
class FlatnessBenchmarkTest {
    @Test
    void flatness() throws Exception {
        assertThat(Printed.by(FlatnessBenchmark::main))
                .containsPattern("beside a held transaction: .* it takes [0-9]")
                .containsPattern("ledger lines: takes [0-9]")
                .containsPattern("one-offs due beside recurring runs: [1-9]")
                .containsPattern("jobs due every second: [1-9]");
    }
}
