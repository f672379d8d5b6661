package dev.brume.definitions;

import dev.brume.history.IdRanges;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Where an export ended: of which record, what was beyond a number, and which lower ones were not on record yet, which may come
 * late.
 *
 * @param record what was written out
 * @param high the highest number that was written
 * @param open the numbers below it that were not
 * @since 0.1.0
 */
public record ExportCursor(String record, long high, IdRanges open) {
    private static final Pattern FORM = Pattern.compile("([a-z]+):([0-9]{1,18})(?::([0-9,-]+))?");

    /** {@return the cursor before the first line} */
    public static ExportCursor beginning(String record) {
        return new ExportCursor(record, 0, IdRanges.NONE);
    }

    /**
     * Reads a cursor.
     *
     * @throws IllegalArgumentException if it is none, or one of another record
     */
    public static ExportCursor parse(String text, String record) {
        Matcher cursor = FORM.matcher(text);
        if (!cursor.matches()) {
            throw notOne(text, record);
        }
        if (!cursor.group(1).equals(record)) {
            throw new IllegalArgumentException("cursor '" + text + "' is the cursor of an export of " + cursor.group(1)
                    + ", and this one is of " + record);
        }
        try {
            String open = cursor.group(3);
            return new ExportCursor(
                    record, Long.parseLong(cursor.group(2)), open == null ? IdRanges.NONE : IdRanges.parse(open));
        } catch (IllegalArgumentException e) {
            throw notOne(text, record);
        }
    }

    private static IllegalArgumentException notOne(String text, String record) {
        return new IllegalArgumentException("cursor '" + text + "' is not the cursor of an export (expected " + record
                + ":120 or " + record + ":120:7,15-17, as an export says it at its end)");
    }

    /** {@return the cursor after some more lines} */
    ExportCursor past(IdRanges written) {
        List<IdRanges.Range> ranges = written.ranges();
        long last = Math.max(high, ranges.get(ranges.size() - 1).last());
        return new ExportCursor(
                record, last, open.plus(IdRanges.between(high + 1, last)).minus(written));
    }

    @Override
    public String toString() {
        return record + ":" + high + (open.isEmpty() ? "" : ":" + open);
    }
}
