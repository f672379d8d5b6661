package dev.brume.tests.chaos;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Attempt;
import dev.brume.Outcome;
import dev.brume.history.RunView;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.stream.Collectors;

/** What the jobs of {@link ChaosWorker} wrote down by themselves, held against the ledger. */
final class IndependentRecord {
    private final Path record;

    IndependentRecord(Path record) {
        this.record = record;
    }

    /** {@return how many attempts have begun so far} */
    int begun() throws IOException {
        return lines(record).size();
    }

    private static List<String> lines(Path file) throws IOException {
        return Files.exists(file) ? Files.readAllLines(file) : List.of();
    }

    /**
     * Finds everything that began or was acknowledged in the ledger, once.
     *
     * @return how many attempts began
     */
    int heldAgainst(List<RunView> runs) throws IOException {
        List<String> began = lines(record);
        assertThat(began).as("began twice under one fence").doesNotHaveDuplicates();
        List<String> attempts = new ArrayList<>();
        for (RunView run : runs) {
            for (Attempt attempt : run.attempts()) {
                attempts.add(run.job() + " " + run.owed().planned() + " " + attempt.fence());
            }
        }
        List<String> missing = new ArrayList<>(began);
        missing.removeAll(Set.copyOf(attempts));
        assertThat(missing).as("every attempt that began is in the ledger").isEmpty();
        assertThat(attempts).as("one attempt a fence").doesNotHaveDuplicates();
        assertThat(runs)
                .as("one run an occurrence")
                .extracting(run -> run.job() + " " + run.owed().planned())
                .doesNotHaveDuplicates();
        for (RunView run : runs) {
            assertThat(run.attempts().stream().map(Attempt::fence).toList())
                    .as("fences of run %s", run.id())
                    .isSorted();
        }
        acknowledged(runs);
        return began.size();
    }

    /** An end that was told, and a guarded transaction that returned, stay. */
    private void acknowledged(List<RunView> runs) throws IOException {
        Set<Long> succeeded = runs.stream()
                .filter(run -> run.outcome().filter(Outcome.SUCCEEDED::equals).isPresent())
                .map(RunView::id)
                .collect(Collectors.toSet());
        assertThat(lines(record.resolveSibling(record.getFileName() + "-acknowledged")))
                .allSatisfy(line -> assertThat(succeeded)
                        .as("was acknowledged: %s", line)
                        .contains(Long.parseLong(line.substring(line.indexOf(' ') + 1))));
    }
}
