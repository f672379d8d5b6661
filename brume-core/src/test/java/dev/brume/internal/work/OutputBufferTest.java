package dev.brume.internal.work;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Mask;
import dev.brume.history.Output;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;

class OutputBufferTest {
    private static final Mask NONE = Mask.of(List.of());

    @Test
    void nothingPrintedIsNoOutput() {
        assertThat(new OutputBuffer().output(NONE)).isEmpty();
    }

    @Test
    void headAndTailAreKeptHoweverTheBytesArrive() {
        SplittableRandom random = new SplittableRandom(3);
        for (int round = 0; round < 200; round++) {
            int total = 1 + random.nextInt(3 * (OutputBuffer.HEAD + OutputBuffer.TAIL));
            byte[] all = new byte[total];
            for (int i = 0; i < total; i++) {
                all[i] = (byte) ('a' + random.nextInt(26));
            }
            OutputBuffer buffer = new OutputBuffer();
            for (int at = 0; at < total; ) {
                int length = Math.min(total - at, 1 + random.nextInt(50_000));
                buffer.write(all, at, length);
                at += length;
            }
            check(
                    new String(all, StandardCharsets.US_ASCII),
                    buffer.output(NONE).orElseThrow());
        }
    }

    private static OutputBuffer printing(String text) {
        OutputBuffer buffer = new OutputBuffer();
        byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
        buffer.write(bytes, 0, bytes.length);
        return buffer;
    }

    @Test
    void whatIsPrintedSoFarEndsWithItsLastLinesAndNeverWithinASecret() {
        Mask secret = Mask.ofValues(List.of("s3cr3t"));

        assertThat(printing("").end(NONE, 10)).isEmpty();
        assertThat(printing("low\nhigh").end(NONE, 100)).contains(new Output("low\nhigh", 8, 0));
        assertThat(printing("low water\nhigh water\nebb\n").end(NONE, 15))
                .contains(new Output("high water\nebb\n", 25, 10));
        assertThat(printing("x".repeat(30)).end(NONE, 10)).contains(new Output("x".repeat(10), 30, 20));
        assertThat(printing("open\nthe key is s3c").end(secret, 100)).contains(new Output("open\n", 19, 0));
        assertThat(printing("the key is s3c").end(secret, 100))
                .as("no line is whole")
                .isEmpty();
        assertThat(printing("the key is s3cr3t\n")
                        .end(secret, 100)
                        .orElseThrow()
                        .text())
                .doesNotContain("s3c");
    }

    private static void check(String all, Output output) {
        int bound = OutputBuffer.HEAD + OutputBuffer.TAIL;
        assertThat(output.bytes()).isEqualTo(all.length());
        assertThat(output.omitted()).isEqualTo(Math.max(0, all.length() - bound));
        if (output.omitted() == 0) {
            assertThat(output.text()).isEqualTo(all);
        } else {
            assertThat(output.text())
                    .startsWith(all.substring(0, OutputBuffer.HEAD))
                    .endsWith(all.substring(all.length() - OutputBuffer.TAIL))
                    .contains("[... " + output.omitted() + " bytes left out ...]");
        }
    }
}
