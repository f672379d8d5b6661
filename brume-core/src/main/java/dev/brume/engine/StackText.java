package dev.brume.engine;

import java.io.PrintWriter;
import java.io.StringWriter;

/** Writes what a handler threw, as far as it belongs to the handler. */
final class StackText {
    private static final int MOST_LINES = 40;

    private StackText() {}

    static String of(Throwable thrown) {
        StringWriter text = new StringWriter();
        thrown.printStackTrace(new PrintWriter(text));
        StringBuilder own = new StringBuilder();
        int lines = 0;
        for (String line : text.toString().split("\\R")) {
            boolean engine = line.contains("at dev.brume.engine.Workers.");
            if (!engine && lines++ < MOST_LINES) {
                own.append(own.length() == 0 ? "" : "\n").append(line);
            }
            if (engine) {
                break;
            }
        }
        return own.toString();
    }
}
