package dev.brume.ical;

/**
 * Something in a calendar file that was not understood, and left out or taken for something else.
 *
 * @param line where, from 1
 * @param text what
 * @since 0.1.0
 */
public record Warning(int line, String text) {
    @Override
    public String toString() {
        return "line " + line + " " + text;
    }
}
