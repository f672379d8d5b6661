package dev.brume.internal.work;

import dev.brume.Mask;
import dev.brume.history.Output;
import java.io.ByteArrayOutputStream;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.Optional;

/**
 * Keeps the head and the tail of what an attempt prints.
 *
 * <p>However much comes, it holds at most {@value #HEAD} + {@value #TAIL} bytes. Bytes that are not
 * UTF-8 become U+FFFD, and so does NUL, which not every database can store. Guarded by itself.
 */
public final class OutputBuffer {
    public static final int HEAD = 32 * 1024;
    public static final int TAIL = 32 * 1024;

    private final ByteArrayOutputStream head = new ByteArrayOutputStream(1024);
    private byte[] tail = new byte[0];
    private long total;

    synchronized void write(byte[] bytes, int offset, int length) {
        int toHead = Math.min(length, HEAD - head.size());
        head.write(bytes, offset, toHead);
        if (length > toHead && tail.length == 0) {
            tail = new byte[TAIL];
        }
        int rest = length - toHead;
        int kept = Math.min(rest, TAIL);
        long at = Math.max(0, total + toHead - HEAD) + rest - kept;
        for (int i = 0; i < kept; i++) {
            tail[(int) ((at + i) % TAIL)] = bytes[offset + length - kept + i];
        }
        total += length;
    }

    void println(String line) {
        byte[] bytes = (line + "\n").getBytes(StandardCharsets.UTF_8);
        write(bytes, 0, bytes.length);
    }

    /** {@return what was kept, without what is secret in it, or nothing if nothing was printed} */
    Optional<Output> output(Mask mask) {
        return output(mask, /* goesOn= */ false);
    }

    private synchronized Optional<Output> output(Mask mask, boolean goesOn) {
        if (total == 0) {
            return Optional.empty();
        }
        long beyondHead = total - head.size();
        int kept = (int) Math.min(beyondHead, TAIL);
        long omitted = beyondHead - kept;
        byte[] last = new byte[kept];
        for (int i = 0; i < kept; i++) {
            last[i] = tail[(int) ((beyondHead - kept + i) % TAIL)];
        }
        boolean wholeLines = goesOn && !mask.isEmpty();
        if (omitted == 0) {
            byte[] all = join(head.toByteArray(), last);
            return Optional.of(new Output(mask.apply(decode(wholeLines ? upToTheLastLine(all) : all)), total, 0));
        }
        byte[] first = mask.isEmpty() ? head.toByteArray() : upToTheLastLine(head.toByteArray());
        byte[] end = mask.isEmpty() ? last : wholeLinesOfTail(last);
        end = wholeLines ? upToTheLastLine(end) : end;
        long left = total - first.length - end.length;
        String text = mask.apply(decode(first)) + "\n[... " + left + " bytes left out ...]\n" + mask.apply(decode(end));
        return Optional.of(new Output(text, total, left));
    }

    /** {@return how many bytes were printed} */
    synchronized long bytes() {
        return total;
    }

    /** {@return the last lines of what was kept so far, at most so many characters, without what is secret in it} */
    Optional<Output> end(Mask mask, int longest) {
        return output(mask, /* goesOn= */ true)
                .filter(all -> !all.text().isEmpty())
                .map(all -> {
                    String text = all.text();
                    if (text.length() <= longest) {
                        return all;
                    }
                    int line = text.indexOf('\n', text.length() - longest - 1);
                    int from = line < 0 ? text.length() - longest : line + 1;
                    // Never between the halves of a character.
                    from += from < text.length() && Character.isLowSurrogate(text.charAt(from)) ? 1 : 0;
                    String end = text.substring(from);
                    return new Output(end, all.bytes(), all.bytes() - end.getBytes(StandardCharsets.UTF_8).length);
                });
    }

    /** A secret that is cut through would not be known again. */
    private static byte[] upToTheLastLine(byte[] bytes) {
        int end = bytes.length;
        while (end > 0 && bytes[end - 1] != '\n') {
            end--;
        }
        return Arrays.copyOf(bytes, end);
    }

    private static byte[] wholeLinesOfTail(byte[] bytes) {
        int start = 0;
        while (start < bytes.length && bytes[start] != '\n') {
            start++;
        }
        return Arrays.copyOfRange(bytes, Math.min(start + 1, bytes.length), bytes.length);
    }

    private static byte[] join(byte[] a, byte[] b) {
        byte[] all = Arrays.copyOf(a, a.length + b.length);
        System.arraycopy(b, 0, all, a.length, b.length);
        return all;
    }

    private static String decode(byte[] bytes) {
        return new String(bytes, StandardCharsets.UTF_8).replace('\0', '\uFFFD');
    }
}
