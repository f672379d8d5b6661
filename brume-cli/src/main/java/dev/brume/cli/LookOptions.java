package dev.brume.cli;

import dev.brume.schedule.Zones;
import java.time.ZoneId;
import java.util.Locale;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

/** How a looking command shows what it found. */
final class LookOptions {
    /** When to use colour. */
    enum Colour {
        AUTO,
        ALWAYS,
        NEVER
    }

    @Mixin
    private FormatOption format;

    @Option(
            names = {"--colour", "--color"},
            paramLabel = "auto|always|never",
            defaultValue = "auto",
            description = "When to use colour; it never says anything that words do not. Default: ${DEFAULT-VALUE}.")
    private Colour colour;

    @Option(
            names = "--viewer-zone",
            paramLabel = "ZONE",
            description = "The zone to show times in beside the job's own; this machine's unless given.")
    private @Nullable String viewer;

    boolean json() {
        return format.json();
    }

    ZoneId viewerZone() {
        return viewer == null ? ZoneId.systemDefault() : Zones.parse(viewer);
    }

    /** {@return the viewer's zone if they said one, else a job's own} */
    ZoneId zoneOr(ZoneId own) {
        return viewer == null ? own : Zones.parse(viewer);
    }

    /** {@return whether the viewer said a zone} */
    boolean saysZone() {
        return viewer != null;
    }

    Palette palette() {
        boolean terminal = System.console() != null && !"dumb".equals(System.getenv("TERM"));
        boolean wanted = terminal && System.getenv("NO_COLOR") == null;
        return new Palette(colour == Colour.ALWAYS || colour == Colour.AUTO && wanted);
    }

    /** How wide a table may be: the terminal's width where the launcher found one, else 80. */
    int width() {
        return terminalWidth();
    }

    static int terminalWidth() {
        String columns = System.getenv("BRUME_COLUMNS");
        boolean known = columns != null && columns.matches("\\d{2,3}");
        return known ? Math.max(60, Integer.parseInt(columns)) : 80;
    }

    /** How wide a row of a table may be: as the terminal, or as long as it gets where something else reads it. */
    int rowWidth() {
        return System.getenv("BRUME_COLUMNS") == null ? Integer.MAX_VALUE : width();
    }

    static String lower(Enum<?> constant) {
        return constant.name().toLowerCase(Locale.ROOT);
    }
}
