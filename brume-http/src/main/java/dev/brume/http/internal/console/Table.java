package dev.brume.http.internal.console;

import dev.brume.insight.board.Fate;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;

/**
 * Rows of cells under heads.
 *
 * @param caption what it lists
 * @param heads of the columns
 * @param lines in their order
 * @param empty what is said where there are none
 */
public record Table(String caption, List<String> heads, List<Line> lines, String empty) {
    /** A row; trouble says that it needs a person. */
    public record Line(List<Cell> cells, boolean trouble) {
        static Line of(Cell... cells) {
            return new Line(List.of(cells), /* trouble= */ false);
        }

        static Line of(boolean trouble, Cell... cells) {
            return new Line(List.of(cells), trouble);
        }
    }

    /** What is in a cell: a text, perhaps with an address, a form before it, a class that says how it is set, and an instant whose distance it tells. */
    public record Cell(String text, String href, String form, String kind, String moment) {
        private Cell(String text, String href, String form, String kind) {
            this(text, href, form, kind, "");
        }

        static Cell of(Object text) {
            return new Cell(String.valueOf(text), "", "", "");
        }

        /** How far an instant is, which goes on while the page is shown. */
        static Cell clock(Frame frame, Instant at) {
            return new Cell(frame.distance(at), "", "", "t", at.toString());
        }

        static Cell number(Object text) {
            return new Cell(String.valueOf(text), "", "", "n");
        }

        /** A number of which none is not worth a figure. */
        static Cell some(long count) {
            return number(count == 0 ? "\u00b7" : Sentence.number(count));
        }

        static Cell code(String text) {
            return new Cell(text, "", "", "code");
        }

        static Cell time(String text) {
            return new Cell(text, "", "", "t");
        }

        static Cell link(String text, String href) {
            return new Cell(text, href, "", "");
        }

        /** A sentence that breaks into lines. */
        static Cell sentence(String text, String href) {
            return new Cell(text, href, "", "say");
        }

        static Cell mark(Fate fate, String text) {
            return new Cell(text, "", fate.name().toLowerCase(Locale.ROOT), "");
        }
    }

    /** {@return how a column is set: as its first cell} */
    public String kind(int column) {
        String kind = lines.isEmpty() ? "" : lines.get(0).cells().get(column).kind();
        return kind.equals("n") ? "n" : "";
    }

    static Table of(String caption, List<Line> lines, String empty, String... heads) {
        return new Table(caption, Arrays.asList(heads), lines, empty);
    }
}
