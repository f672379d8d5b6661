package dev.brume.cli;

import com.github.freva.asciitable.AsciiTable;
import com.github.freva.asciitable.Column;
import com.github.freva.asciitable.HorizontalAlign;
import com.github.freva.asciitable.Styler;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * A table without lines around it. A row is a line, and no word in it is ever broken: whoever looks for a name in a pipe must find
 * it, and the rest of its row beside it. Where the lines would be wider than the terminal, each row is folded into two.
 *
 * <p>Confined to one thread.
 */
final class Table {
    private static final String INDENT = "  ";

    private final Palette palette;
    private final int width;
    private final List<Column> columns = new ArrayList<>();
    private final List<String[]> rows = new ArrayList<>();
    private final Map<Integer, Below> below = new HashMap<>();
    private int fold;

    private record Below(String text, boolean inFull) {}

    /** A table as wide as a look allows. */
    Table(LookOptions look) {
        this(look.palette(), look.rowWidth());
    }

    Table(Palette palette, int width) {
        this.palette = palette;
        this.width = width;
    }

    Table column(String header) {
        columns.add(column(header, HorizontalAlign.LEFT));
        return this;
    }

    Table numbers(String header) {
        columns.add(column(header, HorizontalAlign.RIGHT));
        return this;
    }

    private static Column column(String header, HorizontalAlign align) {
        return new Column().header(header).headerAlign(align).dataAlign(align).maxWidth(Integer.MAX_VALUE);
    }

    /** Has what comes after the columns so far go on a second line where there is no room beside them. */
    Table fold() {
        fold = columns.size();
        return this;
    }

    Table row(Object... cells) {
        rows.add(Arrays.stream(cells).map(String::valueOf).toArray(String[]::new));
        return this;
    }

    /** Says something about the last row: at its end if there is room for all that is said so, else on a line below, cut to that line. */
    void below(String text) {
        below.put(rows.size() - 1, new Below(text, /* inFull= */ false));
    }

    /** Says something about the last row, on as many lines as that takes. */
    void belowInFull(String text) {
        below.put(rows.size() - 1, new Below(text, /* inFull= */ true));
    }

    /** {@return the lines, without space at their ends} */
    List<String> lines() {
        if (fold == columns.size()) {
            throw new IllegalStateException("a table is folded before a column, and none comes after the fold");
        }
        List<String> whole = part(0, columns.size());
        List<List<String>> rowsOfLines = fold == 0 || widest(whole) <= width
                ? whole.stream().map(List::of).toList()
                : folded(part(0, fold), part(fold, columns.size()));
        boolean beside = below.entrySet().stream()
                .allMatch(note -> fitsBeside(note.getValue(), rowsOfLines.get(note.getKey() + 1)));
        List<String> lines = new ArrayList<>();
        for (int i = 0; i < rowsOfLines.size(); i++) {
            lines.addAll(rowsOfLines.get(i));
            Optional.ofNullable(below.get(i - 1)).ifPresent(texts -> addBelow(lines, texts, beside));
        }
        return lines;
    }

    private boolean fitsBeside(Below note, List<String> row) {
        return (long) Sign.seen(row.get(row.size() - 1)) + INDENT.length() + note.text.length() <= width;
    }

    /** Folds the rows whose first part is too long to stand before the second, or all if hardly any would be left. */
    private List<List<String>> folded(List<String> first, List<String> second) {
        int room = width - widest(second) - INDENT.length();
        long fitting = first.stream().filter(part -> Sign.seen(part) <= room).count();
        boolean some = 2 * fitting > first.size();
        List<List<String>> lines = new ArrayList<>();
        for (int i = 0; i < first.size(); i++) {
            int free = room - Sign.seen(first.get(i));
            if (some && free >= 0) {
                lines.add(List.of((first.get(i) + " ".repeat(free) + INDENT + second.get(i)).stripTrailing()));
            } else {
                lines.add(List.of(first.get(i), (some ? " ".repeat(room) : "") + INDENT + second.get(i)));
            }
        }
        return lines;
    }

    private static int widest(List<String> lines) {
        return lines.stream().mapToInt(Sign::seen).max().orElse(0);
    }

    private void addBelow(List<String> lines, Below note, boolean beside) {
        if (note.text.isEmpty()) {
            return;
        }
        if (beside) {
            int last = lines.size() - 1;
            lines.set(last, lines.get(last) + INDENT + palette.word(note.text));
        } else if (note.inFull) {
            Wrap.lines(palette.word(note.text), width - 2 * INDENT.length(), 0)
                    .forEach(line -> lines.add(INDENT + INDENT + line));
        } else {
            lines.add(INDENT + INDENT + palette.word(cut(note.text, width - 2 * INDENT.length())));
        }
    }

    private static String cut(String text, int most) {
        return text.length() <= most ? text : text.substring(0, most - 1) + "…";
    }

    private List<String> part(int from, int until) {
        Object[][] cells =
                rows.stream().map(row -> Arrays.copyOfRange(row, from, until)).toArray(Object[][]::new);
        String text = AsciiTable.builder()
                .border(AsciiTable.NO_BORDERS)
                .lineSeparator("\n")
                .styler(styler())
                .data(columns.subList(from, until).toArray(Column[]::new), cells)
                .asString();
        return Arrays.stream(text.split("\n"))
                .filter(line -> !line.isEmpty())
                .map(line -> line.startsWith(" ") ? line.substring(1) : line)
                .map(String::stripTrailing)
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
