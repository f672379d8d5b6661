package dev.brume.jdbc;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class NumberFileTest {
    private static final long THIS_START = 17;
    private static final long NEXT_START = 18;

    @TempDir
    private Path folder;

    private Path file;

    @BeforeEach
    void create() throws IOException {
        file = Files.write(folder.resolve("numbers"), NumberFile.empty());
    }

    @Test
    void twoWhoHaveItOpenNeverDrawTheSame() throws Exception {
        List<NumberFile> openings = List.of(NumberFile.open(file), NumberFile.open(file));
        ExecutorService threads = Executors.newFixedThreadPool(4);
        List<Future<List<Long>>> drawn = new ArrayList<>();
        for (int thread = 0; thread < 4; thread++) {
            NumberFile numbers = openings.get(thread % 2);
            drawn.add(threads.submit(() -> {
                List<Long> own = new ArrayList<>();
                for (int i = 0; i < 10_000; i++) {
                    long first = numbers.drawRuns(3);
                    own.addAll(List.of(first, first + 1, first + 2));
                }
                return own;
            }));
        }
        List<Long> all = new ArrayList<>();
        for (Future<List<Long>> each : drawn) {
            assertThat(each.get()).as("each draws higher ones all the time").isSorted();
            all.addAll(each.get());
        }
        threads.shutdown();

        assertThat(all).hasSize(120_000).doesNotHaveDuplicates();
    }

    @Test
    void theyGoOnWhereAKilledProcessEnded() throws Exception {
        NumberFile before = NumberFile.open(file);
        before.owned(THIS_START);
        before.goOnFrom(100, 200);
        assertThat(before.drawFences(5)).isEqualTo(200);

        NumberFile after = NumberFile.open(file);
        after.owned(THIS_START);

        assertThat(after.drawFences(1)).isEqualTo(205);
        assertThat(after.drawRuns(1)).isEqualTo(100);
    }

    @Test
    void afterAHaltOfTheMachineWhatWasReservedIsPassedOver() throws Exception {
        NumberFile before = NumberFile.open(file);
        before.owned(THIS_START);
        before.drawRuns(1);
        byte[] onDisk = Files.readAllBytes(file);
        before.drawRuns(9_000);

        // What was drawn since the reservation was forced is gone with the machine.
        Files.write(file, onDisk);
        NumberFile after = NumberFile.open(file);
        after.owned(NEXT_START);

        assertThat(after.drawRuns(1)).isGreaterThan(9_000);
    }

    @Test
    void whereNobodyKnowsWhetherTheMachineWasHaltedItMayHaveBeen() throws Exception {
        NumberFile numbers = NumberFile.open(file);
        numbers.owned(0);
        long first = numbers.drawRuns(1);
        numbers.owned(0);

        assertThat(numbers.drawRuns(1)).isGreaterThan(first + 1);
    }

    @Test
    void theHighestEpochStays() throws Exception {
        NumberFile.open(file).noteEpoch(3);
        NumberFile.open(file).noteEpoch(2);

        assertThat(NumberFile.open(file).epoch()).isEqualTo(3);
    }

    @Test
    void aDamagedFileIsNamedWithTheWayOut() throws Exception {
        Files.write(file, new byte[4096]);
        assertThatThrownBy(() -> NumberFile.open(file))
                .isInstanceOf(IOException.class)
                .hasMessageContaining(file.toString())
                .hasMessageContaining("remove it");

        Files.write(file, new byte[3]);
        assertThatThrownBy(() -> NumberFile.open(file)).hasMessageContaining("damaged");
    }
}
