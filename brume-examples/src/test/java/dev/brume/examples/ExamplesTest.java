package dev.brume.examples;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.data.Index.atIndex;

import java.io.ByteArrayOutputStream;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The examples that end by themselves, run as a reader would. */
class ExamplesTest {
    @TempDir
    private Path folder;

    private interface Program {
        void main(String[] args) throws Exception;
    }

    private String run(Program program) throws Exception {
        PrintStream before = System.out;
        ByteArrayOutputStream printed = new ByteArrayOutputStream();
        System.setOut(new PrintStream(printed, true, StandardCharsets.UTF_8));
        try {
            program.main(new String[] {folder.resolve("data").toString()});
        } finally {
            System.setOut(before);
        }
        return printed.toString(StandardCharsets.UTF_8);
    }

    @Test
    void aRunOrderedInATransactionGoesTheWayOfTheTransaction() throws Exception {
        assertThat(run(BridgeClosure::main)).isEqualToNormalizingNewlines("waiting: 1\nbridge open again: south\n");
    }

    @Test
    void whatAFailedAttemptWroteIsNotThere() throws Exception {
        assertThat(run(HarbourDues::main)).isEqualToNormalizingNewlines("booked: 1\n");
    }

    @Test
    void aFailureThatRepeatsIsToldOnceAndItsEndOnce() throws Exception {
        assertThat(run(PrinterDuty::main).lines().toList())
                .hasSize(2)
                .satisfies(
                        line -> assertThat(line).isEqualTo("failed: harbour/tide-print failed: no paper"), atIndex(0))
                .satisfies(
                        line -> assertThat(line).startsWith("recovered: harbour/tide-print is well again"), atIndex(1));
    }

    @Test
    void aRequestIsMadeAgainUntilItIsAnswered() throws Exception {
        assertThat(run(NoticeBoard::main)).isEqualToNormalizingNewlines("SUCCEEDED after 2 attempts: pinned up\n");
    }
}
