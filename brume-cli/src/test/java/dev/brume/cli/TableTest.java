package dev.brume.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;

class TableTest {
    private static final Pattern CODES = Pattern.compile(Sign.MARK + "[0-9a-f]{16}[a-z]");

    private static Table table(boolean colour, int width) {
        Table table = new Table(new Palette(colour), width)
                .numbers("RUN")
                .column("JOB")
                .fold()
                .column("OUTCOME")
                .numbers("LATE");
        table.row(7, "tides", "SUCCEEDED", "");
        table.row(123, "minute/archive-sync", "SKIPPED BUSY", "3s").below("because of run 122");
        return table;
    }

    private static List<String> lines(boolean colour) {
        return table(colour, 80).lines();
    }

    @Test
    void aRowIsALineWhereThereIsRoom() {
        assertThat(lines(false))
                .containsExactly(
                        "RUN  JOB                  OUTCOME       LATE",
                        "  7  tides                SUCCEEDED",
                        "123  minute/archive-sync  SKIPPED BUSY    3s  because of run 122");
    }

    @Test
    void elseItIsFoldedIntoTwoAndNoNameIsBroken() {
        assertThat(table(false, 22).lines())
                .containsExactly(
                        "RUN  JOB",
                        "  OUTCOME       LATE",
                        "  7  tides",
                        "  SUCCEEDED",
                        "123  minute/archive-sync",
                        "  SKIPPED BUSY    3s",
                        "    because of run 122");
    }

    @Test
    void onlyRowsThatNeedItAreFoldedWhereMostDoNot() {
        Table table = new Table(new Palette(false), 20).column("JOB").fold().numbers("OWED");
        table.row("tides", 7);
        table.row("minute/archive-sync", 12);
        table.row("dues", 3);

        assertThat(table.lines())
                .containsExactly(
                        "JOB             OWED",
                        "tides              7",
                        "minute/archive-sync",
                        "                  12",
                        "dues               3");
    }

    @Test
    void whatIsSaidBelowIsCutOrWrapped() {
        Table cut = new Table(new Palette(false), 20).column("JOB");
        cut.row("tides").below("a remark too long to stand beside it");
        Table inFull = new Table(new Palette(false), 20).column("JOB");
        inFull.row("tides").belowInFull("a remark too long to stand beside it");

        assertThat(cut.lines()).containsExactly("JOB", "tides", "    a remark too lo…");
        assertThat(inFull.lines())
                .containsExactly("JOB", "tides", "    a remark too", "    long to stand", "    beside it");
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
