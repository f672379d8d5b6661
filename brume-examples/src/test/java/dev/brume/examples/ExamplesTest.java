package dev.brume.examples;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayOutputStream;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import org.junit.jupiter.api.Test;

/** The examples do what they say. */
class ExamplesTest {
    @Test
    void aFileWithJavaWorkRunsInMemory() throws Exception {
        Path file = Path.of(FromFile.class.getResource("/bell.yaml").toURI());
        PrintStream before = System.out;
        ByteArrayOutputStream printed = new ByteArrayOutputStream();
        System.setOut(new PrintStream(printed, true, StandardCharsets.UTF_8));
        try {
            FromFile.main(new String[] {file.toString(), "3s"});
        } finally {
            System.setOut(before);
        }

        assertThat(printed.toString(StandardCharsets.UTF_8))
                .contains("JOINED")
                .contains("SUCCEEDED")
                .contains("LEFT");
    }
}
