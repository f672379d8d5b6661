package dev.brume.benchmarks;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.api.Tag;
import org.junit.jupiter.api.Test;

/** The other benchmarks still run; their figures are another matter. */
@Tag("long")
class OtherBenchmarksTest {
    /** More than nothing, however little a busy machine gets done in a second. */
    private static final String SOME = "[0-9,.]*[1-9][0-9,.]*";

    @Test
    void databases() throws Exception {
        assertThat(Printed.by(DatabasesBenchmark::main))
                .containsPattern("h2, medians: raw " + SOME + "/s, engine " + SOME + "/s")
                .containsPattern("mariadb, medians: raw " + SOME + "/s, engine " + SOME + "/s");
    }

    @Test
    void schedules() throws Exception {
        assertThat(Printed.by(ScheduleBenchmark::main))
                .containsPattern("nextNightly .* x floor")
                .containsPattern("countTenYearsOfTwoRules .* x floor")
                .contains("round 5");
    }

    @Test
    void applications() throws Exception {
        assertThat(Printed.by(ApplicationBenchmark::main))
                .containsPattern("jobs, medians: of a namespace [0-9.]+ ms")
                .containsPattern("waiters of one process: a look-up for all takes [0-9.]+ ms")
                .containsPattern("for an end elsewhere, called: told [0-9.]+ ms after it");
    }

    @Test
    void around() throws Exception {
        assertThat(Printed.by(AroundBenchmark::main))
                .containsPattern("noListener +[0-9.]+ ns a run")
                .containsPattern("interceptor +[0-9.]+ ns a run");
    }

    @Test
    void signals() throws Exception {
        assertThat(Printed.by(SignalsBenchmark::main))
                .containsPattern("both +[0-9.]+ ns a run")
                .containsPattern("metricsOfManyJobs +[0-9.]+ ns a run");
    }

    @Test
    void overHttp() throws Exception {
        assertThat(Printed.by(HttpBenchmark::main))
                .containsPattern("a run +the look-up [0-9.]+ ms, over HTTP [0-9.]+ ms")
                .containsPattern("clients at once, a job each time: [0-9]+ look-ups/s, [0-9]+ requests/s")
                .containsPattern("whole streams and .* told; .* p99 [0-9]+ ms");
    }
}
