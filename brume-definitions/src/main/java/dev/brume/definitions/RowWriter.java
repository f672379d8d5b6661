package dev.brume.definitions;

import de.siegmar.fastcsv.writer.CsvWriter;
import de.siegmar.fastcsv.writer.LineDelimiter;
import java.io.IOException;
import java.io.Writer;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** Writes rows one after the other, keeping none. */
interface RowWriter extends AutoCloseable {
    /** What a spreadsheet takes for the beginning of a formula. */
    String COMPUTED = "=+-@\t\r";

    /** Writes a row. */
    void write(Map<String, Object> row) throws IOException;

    @Override
    void close() throws IOException;

    /** Each row an object on a line of its own. */
    static RowWriter jsonLines(Writer out) {
        return new RowWriter() {
            @Override
            public void write(Map<String, Object> row) throws IOException {
                out.write(JsonText.line(row));
                out.write('\n');
            }

            @Override
            public void close() throws IOException {
                out.flush();
            }
        };
    }

    /**
     * Comma-separated as RFC 4180 has it, with a line of headings; what is no text or number is written as JSON. A text that a spreadsheet would
     * compute gets an apostrophe before it.
     */
    static RowWriter csv(Writer out, List<String> columns) {
        CsvWriter writer = CsvWriter.builder().lineDelimiter(LineDelimiter.CRLF).build(out);
        writer.writeRecord(columns);
        return new RowWriter() {
            @Override
            public void write(Map<String, Object> row) {
                writer.writeRecord(
                        columns.stream().map(column -> cell(row.get(column))).toList());
            }

            @Override
            public void close() throws IOException {
                writer.flush();
            }
        };
    }

    private static String cell(@Nullable Object value) {
        if (value == null) {
            return "";
        }
        if (value instanceof Number) {
            return value.toString();
        }
        String text = value instanceof Map || value instanceof List ? JsonText.line(value) : value.toString();
        return !text.isEmpty() && COMPUTED.indexOf(text.charAt(0)) >= 0 ? "'" + text : text;
    }
}
