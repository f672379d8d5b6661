package dev.brume.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

class TerminalStreamTest {
    private static String through(byte[] bytes, int piece) throws IOException {
        ByteArrayOutputStream seen = new ByteArrayOutputStream();
        try (TerminalStream stream = new TerminalStream(seen)) {
            for (int at = 0; at < bytes.length; at += piece) {
                stream.write(bytes, at, Math.min(piece, bytes.length - at));
                stream.flush();
            }
        }
        return seen.toString(StandardCharsets.UTF_8);
    }

    @ParameterizedTest
    @ValueSource(ints = {1, 2, 3, 7, 1000})
    void whatItIsGivenInWhicheverPiecesComesOutTheSame(int piece) throws IOException {
        String signs = Sign.RED.text() + "FAILED" + Sign.RESET.text() + Sign.EMPTY_SCREEN.text();
        String data = "H\u00f6he \ud83c\udf0a\t\u001b[2J\u009b\u202e a\r\nb\rc " + Sign.MARK + "0000 " + Sign.MARK
                + Sign.MARK + Sign.RED.text().substring(1, 9) + " " + Sign.MARK;

        assertThat(through((signs + data + "\r").getBytes(StandardCharsets.UTF_8), piece))
                .isEqualTo("\u001b[31mFAILED\u001b[0m\u001b[2J"
                        + "H\u00f6he \ud83c\udf0a\t\\u001b[2J\\u009b\\u202e a\nb\\u000dc \\ufdd00000 \\ufdd0\\ufdd0"
                        + Sign.RED.text().substring(1, 9) + " \\ufdd0\\u000d");
    }

    @ParameterizedTest
    @ValueSource(ints = {1, 4})
    void whatIsNoCharacterIsReplaced(int piece) throws IOException {
        byte[] bytes = {'a', (byte) 0xC3, 'b', (byte) 0x9B, (byte) 0xE2, (byte) 0x80};

        assertThat(through(bytes, piece)).isEqualTo("a\uFFFDb\uFFFD\uFFFD");
    }
}
