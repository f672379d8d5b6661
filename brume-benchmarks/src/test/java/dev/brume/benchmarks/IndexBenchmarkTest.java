package dev.brume.benchmarks;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;

/** The benchmark of what indexes cost still runs, in a process of its own. */
@Tag("long")
class IndexBenchmarkTest {
    @Test
    void indexes() throws Exception {
        assertThat(Printed.by(IndexBenchmark::main))
                .containsPattern("brume_run_owed +-?[0-9.]+ us and")
                .containsPattern("brume_ledger_run +-?[0-9.]+ us and");
    }
}
