package dev.brume.history;

import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * A place in the feed: behind an event, before the next one. The same on every instance.
 *
 * @param epoch of the database
 * @param number of the transaction, in the order in which they were committed
 * @param index of the event within it, from 1; 0 before the first
 * @since 0.1.0
 */
public record FeedPosition(long epoch, long number, int index) {
    private static final Pattern TEXT = Pattern.compile("(\\d{1,18})\\.(\\d{1,18})\\.(\\d{1,9})");

    /**
     * Reads a text as {@link #toString} writes it.
     *
     * @throws IllegalArgumentException if it is none
     */
    public static FeedPosition parse(String text) {
        Matcher parts = TEXT.matcher(text);
        if (!parts.matches()) {
            throw new IllegalArgumentException(
                    "'" + text + "' is no place in the feed (expected EPOCH.NUMBER.INDEX, as events carry it)");
        }
        return new FeedPosition(
                Long.parseLong(parts.group(1)), Long.parseLong(parts.group(2)), Integer.parseInt(parts.group(3)));
    }

    /** {@return {@code EPOCH.NUMBER.INDEX}} */
    @Override
    public String toString() {
        return epoch + "." + number + "." + index;
    }
}
