package dev.brume.notices;

import java.io.IOException;
import java.io.Writer;

/** Takes text up to a length, and refuses what comes after it. Confined to one thread. */
final class BoundedText extends Writer {
    private final StringBuilder text = new StringBuilder();
    private final int most;

    BoundedText(int most) {
        this.most = most;
    }

    @Override
    public void write(char[] chars, int from, int length) throws IOException {
        if (text.length() + length > most) {
            throw new IOException("it writes more than " + most + " characters");
        }
        text.append(chars, from, length);
    }

    @Override
    public void flush() {
        // Everything is in memory.
    }

    @Override
    public void close() {
        // Everything is in memory.
    }

    @Override
    public String toString() {
        return text.toString();
    }
}
