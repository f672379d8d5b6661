package dev.brume.cli;

import java.util.ArrayList;
import java.util.List;

/** Breaks long lines between words. */
final class Wrap {
    private Wrap() {}

    /**
     * {@return the lines of a text}
     *
     * @param width how wide a line may be, signs aside; a longer word stays whole
     * @param indent how far all lines but the first are indented
     */
    static List<String> lines(String text, int width, int indent) {
        List<String> lines = new ArrayList<>();
        StringBuilder line = new StringBuilder();
        for (String word : text.split(" ")) {
            boolean fits = line.length() == 0 || Sign.seen(line.toString()) + 1 + Sign.seen(word) <= width;
            if (!fits) {
                lines.add(line.toString());
                line = new StringBuilder(" ".repeat(indent));
                line.append(word);
                continue;
            }
            line.append(line.length() == 0 ? "" : " ").append(word);
        }
        lines.add(line.toString());
        return lines;
    }
}
