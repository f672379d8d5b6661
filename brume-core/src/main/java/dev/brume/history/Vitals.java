package dev.brume.history;

import java.util.Locale;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * How the process of an instance was when its session was renewed last.
 *
 * @param heapMegabytes what its heap held, in units of 10^6 bytes
 * @param heapLimitMegabytes what it may hold at most
 * @param load of its machine over the last minute, as the operating system has it; negative if that does not tell
 * @param processors that it has
 * @since 0.1.0
 */
public record Vitals(long heapMegabytes, long heapLimitMegabytes, double load, int processors) {
    private static final Pattern TEXT =
            Pattern.compile("heap (\\d{1,18}) of (\\d{1,18}), load (-?\\d{1,9}\\.\\d{1,9}) on (\\d{1,9})");

    /** {@return what a text says that {@link #toString} wrote; empty if it is written otherwise, as by a later version} */
    public static Optional<Vitals> parse(String text) {
        Matcher parts = TEXT.matcher(text);
        return parts.matches()
                ? Optional.of(new Vitals(
                        Long.parseLong(parts.group(1)),
                        Long.parseLong(parts.group(2)),
                        Double.parseDouble(parts.group(3)),
                        Integer.parseInt(parts.group(4))))
                : Optional.empty();
    }

    /** {@return such as {@code heap 61 of 512, load 0.42 on 2}} */
    @Override
    public String toString() {
        return String.format(
                Locale.ROOT, "heap %d of %d, load %.2f on %d", heapMegabytes, heapLimitMegabytes, load, processors);
    }
}
