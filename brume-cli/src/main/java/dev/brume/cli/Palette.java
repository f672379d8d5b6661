package dev.brume.cli;

import java.util.Map;

/** Colours words whose meaning they carry already. Immutable. */
final class Palette {
    private static final Map<String, String> COLOURS = Map.ofEntries(
            Map.entry("SUCCEEDED", Sign.GREEN.text()),
            Map.entry("FAILED", Sign.RED.text()),
            Map.entry("TIMED_OUT", Sign.RED.text()),
            Map.entry("LOST", Sign.RED.text()),
            Map.entry("PROBLEM", Sign.RED.text()),
            Map.entry("LEASE_LOST", Sign.RED.text()),
            Map.entry("REFUSED", Sign.RED.text()),
            Map.entry("CANCELLED", Sign.YELLOW.text()),
            Map.entry("SKIPPED", Sign.YELLOW.text()),
            Map.entry("WARNING", Sign.YELLOW.text()),
            Map.entry("AFTER_GAP:", Sign.YELLOW.text()),
            Map.entry("FIRST_OF_FOLD:", Sign.YELLOW.text()),
            Map.entry("SECOND_OF_FOLD:", Sign.YELLOW.text()),
            Map.entry("MOVED:", Sign.MAGENTA.text()),
            Map.entry("MISSED", Sign.YELLOW.text()),
            Map.entry("BACKING_OFF", Sign.YELLOW.text()),
            Map.entry("HELD", Sign.YELLOW.text()),
            Map.entry("WAITING", Sign.YELLOW.text()),
            Map.entry("LAPSED", Sign.YELLOW.text()),
            Map.entry("TAKEN_OVER", Sign.MAGENTA.text()),
            Map.entry("HANDED_BACK", Sign.MAGENTA.text()),
            Map.entry("RUNNING", Sign.CYAN.text()),
            Map.entry("STARTED", Sign.CYAN.text()),
            Map.entry("OPEN", Sign.GREEN.text()));

    private final boolean on;

    Palette(boolean on) {
        this.on = on;
    }

    /** Colours a word by what it means. */
    String word(String text) {
        String first = text.strip().split(" ", 2)[0];
        String colour = on ? COLOURS.get(first) : null;
        return colour == null ? text : text.replaceFirst(first, colour + first + Sign.RESET.text());
    }

    /** Colours the sign of what is added, changed or gone. */
    String sign(String sign) {
        String colour = switch (sign) {
            case "+" -> Sign.GREEN.text();
            case "-" -> Sign.RED.text();
            case "~" -> Sign.YELLOW.text();
            default -> "";
        };
        return on && !colour.isEmpty() ? colour + sign + Sign.RESET.text() : sign;
    }

    String bold(String text) {
        return on ? Sign.BOLD.text() + text + Sign.RESET.text() : text;
    }

    String faint(String text) {
        return on ? Sign.FAINT.text() + text + Sign.RESET.text() : text;
    }

    /** One of a few colours, always the same for the same index. */
    String of(int index, String text) {
        String[] colours = {Sign.BLUE.text(), Sign.MAGENTA.text(), Sign.CYAN.text(), Sign.YELLOW.text()};
        return on ? colours[Math.floorMod(index, colours.length)] + text + Sign.RESET.text() : text;
    }
}
