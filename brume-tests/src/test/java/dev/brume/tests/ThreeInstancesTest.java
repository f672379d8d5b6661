package dev.brume.tests;

import static dev.brume.tests.BrumeProcess.kind;
import static org.assertj.core.api.Assertions.assertThat;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Attempt;
import dev.brume.AttemptEnd;
import dev.brume.Outcome;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.history.SpanView;
import dev.brume.jdbc.JdbcStore;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeSet;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/**
 * Three real processes on one PostgreSQL, one of them killed in the middle of a run.
 *
 * <p>The jobs keep a record of their own: a line for each attempt that began and, for the long job, one
 * when it ended. That record is held against the ledger.
 */
class ThreeInstancesTest {
    @TempDir
    private Path folder;

    private Path definitions() throws Exception {
        StringBuilder yaml = new StringBuilder("zone: Atlantic/Azores\njobs:\n");
        for (int i = 0; i < 6; i++) {
            yaml.append("  buoy-")
                    .append(i)
                    .append(":\n    when: {every: 1s}\n    work: ")
                    .append(note("began"));
        }
        yaml.append("  lamp-inspection:\n    when: {every: 5s}\n    work: {program: [sh, -c, '")
                .append(line("began"))
                .append("; sleep 3; ")
                .append(line("ended"))
                .append("']}\n");
        return Files.writeString(folder.resolve("harbour.yaml"), yaml);
    }

    private String note(String what) {
        return "{program: [sh, -c, '" + line(what) + "']}\n";
    }

    /** One short line in append mode is written whole. */
    private String line(String what) {
        return "echo \"$BRUME_JOB $BRUME_PLANNED $BRUME_FENCE " + what + "\" >> " + folder.resolve("record");
    }

    private BrumeProcess instance(String name, Path definitions, String schema) throws Exception {
        return BrumeProcess.start(
                folder,
                "serve",
                "--name",
                name,
                "--definitions",
                definitions.toString(),
                "--database",
                Databases.postgresUrl(),
                "--schema",
                schema,
                "--lease",
                "3s",
                "--workers",
                "8",
                "--drain-limit",
                "20s",
                "--format",
                "json");
    }

    @Test
    void everyOccurrenceRunsOnceAndTheKilledInstancesRunIsTakenOver() throws Exception {
        String schema = Databases.freshName();
        Path definitions = definitions();
        try (BrumeProcess first = instance("quay-1", definitions, schema);
                BrumeProcess second = instance("quay-2", definitions, schema);
                BrumeProcess third = instance("quay-3", definitions, schema)) {
            Map<String, BrumeProcess> instances = Map.of("quay-1", first, "quay-2", second, "quay-3", third);
            for (BrumeProcess instance : instances.values()) {
                instance.await(kind("JOINED"));
            }
            String victim = holderOfLongRun(schema);
            instances.get(victim).kill();
            List<BrumeProcess> survivors = instances.entrySet().stream()
                    .filter(entry -> !entry.getKey().equals(victim))
                    .map(Map.Entry::getValue)
                    .toList();
            awaitTakenOverAndEnded(schema, victim);
            for (BrumeProcess survivor : survivors) {
                survivor.terminate();
            }
            for (BrumeProcess survivor : survivors) {
                assertThat(survivor.result().err()).contains("stopped; all runs had ended");
            }
        }
        compare(schema);
    }

    private <T> T store(String schema, Function<JdbcStore, T> look) {
        try (HikariDataSource pool = Databases.postgres()) {
            return look.apply(JdbcStore.builder(pool).schema(schema).build());
        }
    }

    /** Asks the database until a condition yields something; each look is a query, so it needs no pause. */
    private <T> T until(String schema, Function<JdbcStore, Optional<T>> look) {
        return store(schema, store -> {
            Instant limit = store.history().now().plus(Duration.ofSeconds(60));
            while (store.history().now().isBefore(limit)) {
                Optional<T> found = look.apply(store);
                if (found.isPresent()) {
                    return found.get();
                }
            }
            throw new AssertionError(
                    "waited in vain; runs are " + store.history().runs(RunFilter.newest(50)));
        });
    }

    private String holderOfLongRun(String schema) {
        return until(
                schema,
                store -> longRuns(store).stream()
                        .filter(run ->
                                run.outcome().isEmpty() && !run.attempts().isEmpty())
                        .map(run -> run.lastAttempt().orElseThrow().instance())
                        .findFirst());
    }

    private void awaitTakenOverAndEnded(String schema, String victim) {
        until(
                schema,
                store -> longRuns(store).stream()
                        .filter(run ->
                                run.outcome().isPresent() && run.attempts().size() > 1)
                        .filter(run -> run.attempts().get(0).instance().equals(victim))
                        .findFirst());
    }

    private static List<RunView> longRuns(JdbcStore store) {
        return store.history().runs(RunFilter.newest(1000)).stream()
                .filter(run -> run.job().name().equals("lamp-inspection"))
                .toList();
    }

    private void compare(String schema) throws Exception {
        List<RunView> runs = store(schema, store -> store.history().runs(RunFilter.newest(100_000)));
        List<SpanView> spans = store(schema, store -> store.history().spans(RunFilter.newest(1000)));
        List<String> record = Files.readAllLines(folder.resolve("record"));

        // Nothing began twice under one fence, and whatever began is an attempt in the ledger.
        List<String> began =
                record.stream().filter(line -> line.endsWith(" began")).toList();
        List<String> attempts = new ArrayList<>();
        for (RunView run : runs) {
            for (Attempt attempt : run.attempts()) {
                attempts.add(run.job() + " " + run.owed().planned() + " " + attempt.fence() + " began");
            }
        }
        assertThat(began).doesNotHaveDuplicates();
        assertThat(attempts).containsAll(began);

        // What succeeded did so once, and is on the job's own record.
        List<String> succeeded = runs.stream()
                .filter(run -> run.outcome()
                        .filter(outcome -> outcome == Outcome.SUCCEEDED)
                        .isPresent())
                .map(run -> run.job() + " " + run.owed().planned() + " "
                        + run.lastAttempt().orElseThrow().fence() + " began")
                .toList();
        assertThat(succeeded).isNotEmpty().doesNotHaveDuplicates();
        assertThat(began).containsAll(succeeded);

        // Only runs that were lost with an instance began more than once, and then under a rising fence.
        for (RunView run : runs) {
            List<Long> fences = run.attempts().stream().map(Attempt::fence).toList();
            assertThat(fences).isSorted().doesNotHaveDuplicates();
            if (fences.size() > 1) {
                assertThat(run.attempts().get(0).end()).contains(AttemptEnd.LOST);
            }
        }
        noneIsMissing(runs, spans);
    }

    /** Between a job's first and last occurrence every second is a run or lies in a span. */
    private static void noneIsMissing(List<RunView> runs, List<SpanView> spans) {
        Map<String, TreeSet<Instant>> planned = runs.stream()
                .filter(run -> run.job().name().startsWith("buoy"))
                .collect(Collectors.groupingBy(
                        run -> run.job().name(),
                        Collectors.mapping(run -> run.owed().planned(), Collectors.toCollection(TreeSet::new))));
        assertThat(planned).hasSize(6);
        planned.forEach((job, instants) -> {
            for (Instant at = instants.first(); !at.isAfter(instants.last()); at = at.plusSeconds(1)) {
                Instant second = at;
                boolean spanned = spans.stream()
                        .filter(view -> view.job().name().equals(job))
                        .anyMatch(view -> !second.isBefore(view.span().from())
                                && second.isBefore(view.span().until()));
                assertThat(instants.contains(second) || spanned)
                        .as("%s at %s", job, second)
                        .isTrue();
            }
        });
    }
}
