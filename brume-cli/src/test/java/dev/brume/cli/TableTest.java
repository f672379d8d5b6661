package dev.brume.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;

class TableTest {
    private static final Pattern CODES = Pattern.compile(Sign.MARK + "[0-9a-f]{16}[a-z]");

    private static List<String> lines(boolean colour) {
        Table table =
                new Table(new Palette(colour)).numbers("RUN").column("JOB", 8).column("OUTCOME", 20);
        table.row(7, "tides", "SUCCEEDED");
        table.row(123, "a name too long", "SKIPPED BUSY");
        return table.lines();
    }

    @Test
    void columnsLineUpAndLongTextGoesOnBelow() {
        assertThat(lines(false))
                .containsExactly(
                        "RUN  JOB       OUTCOME",
                        "  7  tides     SUCCEEDED",
                        "123  a name    SKIPPED BUSY",
                        "     too long");
    }

    @Test
    void aNameIsNeverBroken() {
        Table table = new Table(new Palette(false)).column("JOB", 8).numbers("OWED");
        table.row("minute/archive-sync", 7);
        table.row("in all and more", 7);

        assertThat(table.lines())
                .containsExactly("JOB                  OWED", "minute/archive-sync     7", "in all and more         7");
    }

    @Test
    void colourAddsNothingButColour() {
        List<String> coloured = lines(true);

        assertThat(coloured).anyMatch(line -> CODES.matcher(line).find());
        assertThat(coloured.stream()
                        .map(line -> CODES.matcher(line).replaceAll("").stripTrailing()))
                .containsExactlyElementsOf(lines(false));
    }

    @Test
    void aWordIsColouredByWhatItMeans() {
        Palette palette = new Palette(true);

        assertThat(palette.word("FAILED")).isNotEqualTo("FAILED").contains("FAILED");
        assertThat(palette.word("SKIPPED BUSY")).endsWith(" BUSY");
        assertThat(palette.word("anything else")).isEqualTo("anything else");
        assertThat(new Palette(false).word("FAILED")).isEqualTo("FAILED");
    }
}
