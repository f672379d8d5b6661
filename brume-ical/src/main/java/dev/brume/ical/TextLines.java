package dev.brume.ical;

import java.io.ByteArrayOutputStream;
import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;

/**
 * Cuts iCalendar text into its lines, with folded ones put together (RFC 5545, section 3.1).
 *
 * <p>A fold may lie within a character, so that bytes are put together before they are read as UTF-8. Blank lines are left out.
 */
final class TextLines {
    private static final int MOST = 1_000_000;
    private static final byte[] UTF_8_MARK = {(byte) 0xEF, (byte) 0xBB, (byte) 0xBF};

    private final String name;
    private final List<TextLine> lines = new ArrayList<>();
    private final ByteArrayOutputStream open = new ByteArrayOutputStream();
    private int openSince;

    private TextLines(String name) {
        this.name = name;
    }

    /**
     * A line.
     *
     * @param number of its first piece in the file, from 1
     * @param text without its folds
     */
    record TextLine(int number, String text) {}

    /**
     * Cuts a file.
     *
     * @param name of the thing, for messages
     */
    static List<TextLine> of(byte[] bytes, String name) {
        return new TextLines(name).cut(inUtf8(bytes));
    }

    /** A mark at the beginning tells UTF-16; without one it is UTF-8, as the standard has it. */
    private static byte[] inUtf8(byte[] bytes) {
        if (startsWith(bytes, (byte) 0xFE, (byte) 0xFF) || startsWith(bytes, (byte) 0xFF, (byte) 0xFE)) {
            return new String(bytes, Charset.forName("UTF-16")).getBytes(StandardCharsets.UTF_8);
        }
        if (startsWith(bytes, UTF_8_MARK)) {
            return Arrays.copyOfRange(bytes, UTF_8_MARK.length, bytes.length);
        }
        return bytes;
    }

    private static boolean startsWith(byte[] bytes, byte... beginning) {
        for (int i = 0; i < beginning.length; i++) {
            if (i == bytes.length || bytes[i] != beginning[i]) {
                return false;
            }
        }
        return true;
    }

    private List<TextLine> cut(byte[] bytes) {
        int number = 0;
        for (int begin = 0; begin < bytes.length; ) {
            number++;
            int end = begin;
            while (end < bytes.length && bytes[end] != '\n' && bytes[end] != '\r') {
                end++;
            }
            boolean isFold = bytes[begin] == ' ' || bytes[begin] == '\t';
            if (isFold && open.size() > 0) {
                open.write(bytes, begin + 1, end - begin - 1);
            } else if (end > begin) {
                close();
                openSince = number;
                open.write(bytes, begin, end - begin);
            }
            begin = end + (end + 1 < bytes.length && bytes[end] == '\r' && bytes[end + 1] == '\n' ? 2 : 1);
        }
        close();
        return lines;
    }

    private void close() {
        if (open.size() == 0) {
            return;
        }
        if (lines.size() == MOST) {
            throw Problems.of(name, "", 0, "has more than " + MOST + " lines");
        }
        try {
            String text = StandardCharsets.UTF_8
                    .newDecoder()
                    .decode(ByteBuffer.wrap(open.toByteArray()))
                    .toString();
            if (!text.isBlank()) {
                lines.add(new TextLine(openSince, text));
            }
        } catch (CharacterCodingException e) {
            throw Problems.atLine(
                    name,
                    openSince,
                    "is not in UTF-8 (if the file is in ISO-8859-1 or windows-1252, convert it: iconv -f windows-1252 -t UTF-8)");
        }
        open.reset();
    }
}
