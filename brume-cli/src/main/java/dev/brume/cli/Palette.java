package dev.brume.cli;

import java.util.Map;

/** Colours words whose meaning they carry already. Immutable. */
final class Palette {
    private static final String RESET = "\u001b[0m";
    private static final Map<String, String> COLOURS = Map.ofEntries(
            Map.entry("SUCCEEDED", "\u001b[32m"),
            Map.entry("FAILED", "\u001b[31m"),
            Map.entry("TIMED_OUT", "\u001b[31m"),
            Map.entry("LOST", "\u001b[31m"),
            Map.entry("PROBLEM", "\u001b[31m"),
            Map.entry("LEASE_LOST", "\u001b[31m"),
            Map.entry("REFUSED", "\u001b[31m"),
            Map.entry("CANCELLED", "\u001b[33m"),
            Map.entry("SKIPPED", "\u001b[33m"),
            Map.entry("WARNING", "\u001b[33m"),
            Map.entry("AFTER_GAP:", "\u001b[33m"),
            Map.entry("FIRST_OF_FOLD:", "\u001b[33m"),
            Map.entry("SECOND_OF_FOLD:", "\u001b[33m"),
            Map.entry("MOVED:", "\u001b[35m"),
            Map.entry("MISSED", "\u001b[33m"),
            Map.entry("BACKING_OFF", "\u001b[33m"),
            Map.entry("HELD", "\u001b[33m"),
            Map.entry("LAPSED", "\u001b[33m"),
            Map.entry("TAKEN_OVER", "\u001b[35m"),
            Map.entry("HANDED_BACK", "\u001b[35m"),
            Map.entry("RUNNING", "\u001b[36m"),
            Map.entry("STARTED", "\u001b[36m"),
            Map.entry("OPEN", "\u001b[32m"));

    private final boolean on;

    Palette(boolean on) {
        this.on = on;
    }

    /** Colours a word by what it means. */
    String word(String text) {
        String first = text.strip().split(" ", 2)[0];
        String colour = on ? COLOURS.get(first) : null;
        return colour == null ? text : text.replaceFirst(first, colour + first + RESET);
    }

    /** Colours the sign of what is added, changed or gone. */
    String sign(String sign) {
        String colour = switch (sign) {
            case "+" -> "\u001b[32m";
            case "-" -> "\u001b[31m";
            case "~" -> "\u001b[33m";
            default -> "";
        };
        return on && !colour.isEmpty() ? colour + sign + RESET : sign;
    }

    String bold(String text) {
        return on ? "\u001b[1m" + text + RESET : text;
    }

    String faint(String text) {
        return on ? "\u001b[2m" + text + RESET : text;
    }

    /** One of a few colours, always the same for the same index. */
    String of(int index, String text) {
        String[] colours = {"\u001b[34m", "\u001b[35m", "\u001b[36m", "\u001b[33m"};
        return on ? colours[Math.floorMod(index, colours.length)] + text + RESET : text;
    }
}
