package dev.brume.cli;

import dev.brume.seal.IdRanges;
import java.util.List;

/**
 * Where an export ended: what was beyond a number, and which lower ones were not on record yet, which may come late.
 *
 * @param high the highest number that was written
 * @param open the numbers below it that were not
 */
record ExportCursor(long high, IdRanges open) {
    /** Before the first line. */
    static final ExportCursor BEGINNING = new ExportCursor(0, IdRanges.NONE);

    static ExportCursor parse(String text) {
        int colon = text.indexOf(':');
        try {
            long high = Long.parseLong(colon < 0 ? text : text.substring(0, colon));
            return new ExportCursor(high, IdRanges.parse(colon < 0 ? "" : text.substring(colon + 1)));
        } catch (IllegalArgumentException e) {
            throw new UsageException("--after '" + text
                    + "' is not the cursor of an export (expected 120 or 120:7,15-17, as" + " brume export prints it)");
        }
    }

    /** {@return the cursor after some more lines} */
    ExportCursor past(IdRanges written) {
        List<IdRanges.Range> ranges = written.ranges();
        long last = Math.max(high, ranges.get(ranges.size() - 1).last());
        return new ExportCursor(
                last, open.plus(IdRanges.between(high + 1, last)).minus(written));
    }

    @Override
    public String toString() {
        return open.isEmpty() ? Long.toString(high) : high + ":" + open;
    }
}
