package dev.brume.cli;

import com.github.freva.asciitable.AsciiTable;
import com.github.freva.asciitable.Column;
import com.github.freva.asciitable.HorizontalAlign;
import com.github.freva.asciitable.OverflowBehaviour;
import com.github.freva.asciitable.Styler;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;

/** A table without lines around it. Confined to one thread. */
final class Table {
    private final Palette palette;
    private final List<Column> columns = new ArrayList<>();
    private final Map<Integer, Integer> limits = new HashMap<>();
    private final List<String[]> rows = new ArrayList<>();

    Table(Palette palette) {
        this.palette = palette;
    }

    /**
     * Adds a column; what is wider than its limit goes on in the next line, but a word is never broken: whoever looks for a name in a
     * pipe must find it.
     */
    Table column(String header, int widest) {
        limits.put(columns.size(), widest);
        columns.add(
                new Column().header(header).headerAlign(HorizontalAlign.LEFT).dataAlign(HorizontalAlign.LEFT));
        return this;
    }

    Table numbers(String header) {
        columns.add(
                new Column().header(header).headerAlign(HorizontalAlign.RIGHT).dataAlign(HorizontalAlign.RIGHT));
        return this;
    }

    void row(Object... cells) {
        rows.add(Arrays.stream(cells).map(String::valueOf).toArray(String[]::new));
    }

    private int longestWord(int column) {
        return rows.stream()
                .flatMap(row -> Arrays.stream(row[column].split("\\s+")))
                .mapToInt(String::length)
                .max()
                .orElse(0);
    }

    /** {@return the lines, without space at their ends} */
    List<String> lines() {
        limits.forEach((column, widest) ->
                columns.get(column).maxWidth(Math.max(widest, longestWord(column)) + 2, OverflowBehaviour.NEWLINE));
        String text = AsciiTable.builder()
                .border(AsciiTable.NO_BORDERS)
                .lineSeparator("\n")
                .styler(styler())
                .data(columns.toArray(Column[]::new), rows.toArray(Object[][]::new))
                .asString();
        return Arrays.stream(text.split("\n"))
                .map(line -> line.startsWith(" ") ? line.substring(1) : line)
                .map(String::stripTrailing)
                .filter(line -> !line.isEmpty())
                .toList();
    }

    private Styler styler() {
        return new Styler() {
            @Override
            public List<String> styleHeader(Column column, int col, List<String> data) {
                return data.stream().map(this::header).toList();
            }

            /** Leaves the padding plain, so that lines still begin with it. */
            private String header(String padded) {
                String text = padded.strip();
                return text.isEmpty() ? padded : padded.replace(text, palette.faint(text));
            }

            @Override
            public List<String> styleCell(Column column, int row, int col, List<String> data) {
                return data.stream().map(palette::word).toList();
            }
        };
    }
}
