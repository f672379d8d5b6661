package dev.brume.cli;

import java.io.IOException;
import java.io.PrintWriter;
import java.io.Writer;

/** Says of a writer that keeps its errors to itself when there was one, and leaves it open. */
final class CheckedWriter extends Writer {
    private static final int OFTEN = 64 * 1024;

    private final PrintWriter out;
    private int unchecked;

    CheckedWriter(PrintWriter out) {
        this.out = out;
    }

    @Override
    public void write(char[] text, int from, int length) throws IOException {
        out.write(text, from, length);
        unchecked += length;
        if (unchecked > OFTEN) {
            flush();
        }
    }

    @Override
    public void flush() throws IOException {
        unchecked = 0;
        if (out.checkError()) {
            throw new IOException("the other end is closed, or has no room");
        }
    }

    @Override
    public void close() throws IOException {
        flush();
    }
}
