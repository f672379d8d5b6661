package dev.brume.cli;

import dev.brume.internal.text.Texts;
import java.io.FilterOutputStream;
import java.io.IOException;
import java.io.OutputStream;
import java.nio.charset.StandardCharsets;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * Lets through what reads as text, and of what moves a terminal only what the command itself asks for: a {@link Sign}. Other control characters,
 * which come from outputs, answers, errors and names, are made visible. Takes UTF-8. Confined by the lock of the printer on top.
 */
final class TerminalStream extends FilterOutputStream {
    private static final int LONGEST = 4;

    /** The bytes of a character that is not whole yet. */
    private final byte[] begun = new byte[LONGEST];

    private int have;
    private int want;
    private boolean returned;

    /** What has come after a mark, which may make a sign of it. */
    private @Nullable StringBuilder marked;

    TerminalStream(OutputStream out) {
        super(out);
    }

    @Override
    public void write(byte[] bytes, int from, int length) throws IOException {
        int plain = from;
        for (int i = from; i < from + length; i++) {
            if (have == 0 && !returned && marked == null && isPlain(bytes[i])) {
                continue;
            }
            out.write(bytes, plain, i - plain);
            take(bytes[i]);
            plain = i + 1;
        }
        out.write(bytes, plain, from + length - plain);
    }

    @Override
    public void write(int octet) throws IOException {
        write(new byte[] {(byte) octet}, 0, 1);
    }

    /** The greater part of all text. */
    private static boolean isPlain(byte octet) {
        return octet >= 0x20 && octet < 0x7F || octet == '\n' || octet == '\t';
    }

    private void take(byte octet) throws IOException {
        if (marked != null) {
            takeMarked(octet);
            return;
        }
        if (returned) {
            returned = false;
            if (octet != '\n') {
                writeText(Texts.escape('\r'));
            }
        }
        if (have > 0 && (octet & 0xC0) != 0x80) {
            writeRest();
        }
        if (have == 0) {
            want = octet >= 0
                    ? 1
                    : (octet & 0xE0) == 0xC0 ? 2 : (octet & 0xF0) == 0xE0 ? 3 : (octet & 0xF8) == 0xF0 ? 4 : 1;
        }
        begun[have++] = octet;
        if (have == want) {
            whole();
        }
    }

    private void whole() throws IOException {
        String text = new String(begun, 0, have, StandardCharsets.UTF_8);
        char first = text.charAt(0);
        if (first == '\r') {
            returned = true;
        } else if (first == Sign.MARK) {
            marked = new StringBuilder(Sign.LENGTH);
        } else {
            writeText(text.length() > 1 || !Texts.isControl(first) ? text : Texts.escape(first));
        }
        have = 0;
    }

    /** As soon as it cannot become a sign any more, it is data. */
    private void takeMarked(byte octet) throws IOException {
        StringBuilder after = Objects.requireNonNull(marked);
        after.append((char) (octet & 0xFF));
        Optional<byte[]> sequence = Sign.sequence(after);
        if (sequence.isPresent()) {
            marked = null;
            out.write(sequence.get());
        } else if (!Sign.mayBegin(after)) {
            after.setLength(after.length() - 1);
            writeMarked();
            take(octet);
        }
    }

    private void writeMarked() throws IOException {
        writeText(Texts.escape(Sign.MARK) + marked);
        marked = null;
    }

    /** What is no whole character is not passed on as it is: a terminal may take part of it for a control character. */
    private void writeRest() throws IOException {
        writeText("\uFFFD");
        have = 0;
    }

    private void writeText(String text) throws IOException {
        out.write(text.getBytes(StandardCharsets.UTF_8));
    }

    /** Writes what was waited with, since nothing comes any more that could belong to it. */
    void finish() throws IOException {
        if (returned) {
            returned = false;
            writeText(Texts.escape('\r'));
        }
        if (have > 0) {
            writeRest();
        }
        if (marked != null) {
            writeMarked();
        }
        flush();
    }

    @Override
    public void close() throws IOException {
        finish();
        super.close();
    }
}
