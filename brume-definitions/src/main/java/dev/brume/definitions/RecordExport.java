package dev.brume.definitions;

import dev.brume.history.ChangeView;
import dev.brume.history.History;
import dev.brume.history.IdRanges;
import dev.brume.history.RunView;
import java.io.IOException;
import java.io.Writer;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.function.Function;
import java.util.function.Supplier;
import java.util.function.ToLongFunction;

/**
 * Writes out the ledger or the change log, line by line in the order of their numbers, a page at a time.
 *
 * @since 0.1.0
 */
public final class RecordExport {
    private static final int PAGE = 2000;

    private RecordExport() {}

    /** What can be written out. */
    public enum What {
        /** Ended runs. */
        LEDGER,
        /** Who changed or ordered what. */
        CHANGES;

        /** {@return its name in cursors and addresses} */
        public String word() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    /** In which form. */
    public enum Form {
        /** An object a line. */
        JSONL,
        /** RFC 4180, with a line of headings. */
        CSV
    }

    /** Reads lines by number. */
    private interface Reading<T> {
        List<T> read(History history, long beyond, IdRanges open, int limit);
    }

    /**
     * Writes all there is.
     *
     * @param histories is asked for each page anew, so that nothing is held while one is written
     * @param begin where an earlier export ended
     * @return where this one did
     */
    public static ExportCursor write(What what, Form form, Supplier<History> histories, ExportCursor begin, Writer out)
            throws IOException {
        return write(what, form, histories, begin, Long.MAX_VALUE, out);
    }

    /**
     * Writes so many lines at most.
     *
     * @param histories is asked for each page anew, so that nothing is held while one is written
     * @param begin where an earlier export ended
     * @param most 1 or more
     * @return where this one did
     */
    public static ExportCursor write(
            What what, Form form, Supplier<History> histories, ExportCursor begin, long most, Writer out)
            throws IOException {
        return what == What.LEDGER
                ? write(
                        form,
                        histories,
                        begin,
                        most,
                        History::lines,
                        RunView::id,
                        ExportRows::of,
                        ExportRows.LEDGER,
                        out)
                : write(
                        form,
                        histories,
                        begin,
                        most,
                        History::changeLines,
                        ChangeView::id,
                        ExportRows::of,
                        ExportRows.CHANGES,
                        out);
    }

    private static <T> ExportCursor write(
            Form form,
            Supplier<History> histories,
            ExportCursor begin,
            long most,
            Reading<T> reading,
            ToLongFunction<T> id,
            Function<T, Map<String, Object>> row,
            List<String> columns,
            Writer out)
            throws IOException {
        try (RowWriter rows = form == Form.CSV ? RowWriter.csv(out, columns) : RowWriter.jsonLines(out)) {
            ExportCursor cursor = begin;
            long left = most;
            List<T> page = reading.read(histories.get(), cursor.high(), cursor.open(), (int) Math.min(PAGE, left));
            while (!page.isEmpty()) {
                for (T line : page) {
                    rows.write(row.apply(line));
                }
                cursor = cursor.past(
                        IdRanges.of(page.stream().map(id::applyAsLong).toList()));
                left -= page.size();
                page = page.size() == PAGE && left > 0
                        ? reading.read(histories.get(), cursor.high(), cursor.open(), (int) Math.min(PAGE, left))
                        : List.of();
            }
            return cursor;
        }
    }
}
