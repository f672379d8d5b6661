package dev.brume.seal;

import java.time.Instant;

/**
 * A seal over some lines of the ledger and of the change log, and over the seal before it.
 *
 * @param number from 1, without a gap
 * @param sealedAt the database's clock
 * @param sealedBy who had it made
 * @param lines the run ids of the ledger lines that it covers
 * @param lineMarks the mark of each, in the order of the ids, {@value Canonical#MARK_LENGTH} characters a mark
 * @param changes the numbers of the lines of the change log that it covers
 * @param changeMarks the mark of each
 * @param digest SHA-256 over all that, and the digest before, in hexadecimal
 */
public record Seal(
        long number,
        Instant sealedAt,
        String sealedBy,
        IdRanges lines,
        String lineMarks,
        IdRanges changes,
        String changeMarks,
        String digest) {

    /** Makes a seal. */
    public static Seal of(
            long number,
            String before,
            Instant sealedAt,
            String sealedBy,
            IdRanges lines,
            String lineMarks,
            IdRanges changes,
            String changeMarks) {
        Seal open = new Seal(number, sealedAt, sealedBy, lines, lineMarks, changes, changeMarks, "");
        return new Seal(number, sealedAt, sealedBy, lines, lineMarks, changes, changeMarks, open.digestAfter(before));
    }

    /** {@return the digest that it must have after another one} */
    public String digestAfter(String before) {
        return Canonical.sha256(String.join(
                "\n",
                "brume-seal 1",
                before,
                Long.toString(number),
                sealedAt.toString(),
                sealedBy,
                lines.toString(),
                lineMarks,
                changes.toString(),
                changeMarks,
                ""));
    }

    /** {@return the mark at a place, counted from 0} */
    static String mark(String marks, long place) {
        int begin = (int) place * Canonical.MARK_LENGTH;
        int end = begin + Canonical.MARK_LENGTH;
        return end <= marks.length() ? marks.substring(begin, end) : "";
    }
}
