package dev.brume.http.internal.console;

import dev.brume.http.internal.web.Param;
import dev.brume.insight.board.Scale;
import java.time.Duration;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** How much of time the board shows: so much back from now, and two thirds of it ahead. */
public enum Zoom {
    M10("10m", Duration.ofMinutes(10), Duration.ofSeconds(10), Duration.ofMinutes(2)),
    H1("1h", Duration.ofHours(1), Duration.ofMinutes(1), Duration.ofMinutes(10)),
    H6("6h", Duration.ofHours(6), Duration.ofMinutes(5), Duration.ofHours(1)),
    H24("24h", Duration.ofHours(24), Duration.ofHours(1), Duration.ofHours(4)),
    D3("3d", Duration.ofDays(3), Duration.ofHours(1), Duration.ofHours(12)),
    W1("1w", Duration.ofDays(7), Duration.ofHours(3), Duration.ofDays(1)),
    W5("5w", Duration.ofDays(35), Duration.ofDays(1), Duration.ofDays(7));

    private static final Duration FRESH = Duration.ofSeconds(5);

    static final Param<Zoom> PARAM = new Param<>(
            "zoom",
            "How far back the board goes.",
            Map.of("type", "string", "enum", words()),
            "24h",
            text -> Arrays.stream(values())
                    .filter(zoom -> zoom.word.equals(text))
                    .findFirst()
                    .orElseThrow(() -> new IllegalArgumentException(
                            "'" + text + "' is not one of " + String.join(", ", words()))));

    private final String word;
    private final Duration back;
    private final Duration cell;
    private final Duration tick;

    Zoom(String word, Duration back, Duration cell, Duration tick) {
        this.word = word;
        this.back = back;
        this.cell = cell;
        this.tick = tick;
    }

    static List<String> words() {
        return Arrays.stream(values()).map(zoom -> zoom.word).toList();
    }

    String word() {
        return word;
    }

    Duration back() {
        return back;
    }

    /** {@return how far apart the marks of the axis are} */
    Duration tick() {
        return tick;
    }

    /** {@return how long a board is not laid out anew as a whole: the further back it goes, the less of it changes} */
    Duration fresh() {
        Duration share = back.dividedBy(20_000);
        return share.compareTo(FRESH) < 0 ? FRESH : share;
    }

    /** {@return by how much a step to either side moves} */
    Duration step() {
        return back.dividedBy(2);
    }

    /**
     * {@return what is shown}
     *
     * @param at where now would be; now itself unless given
     */
    Scale scale(Instant now, Optional<Instant> at) {
        return from(at.orElse(now).minus(back), now);
    }

    /** {@return what is shown from an instant, or the beginning of the cell that it is in, on} */
    Scale from(Instant begin, Instant now) {
        long width = cell.toSeconds();
        Instant from = Instant.ofEpochSecond(Math.floorDiv(begin.getEpochSecond(), width) * width);
        return new Scale(
                from,
                now,
                from.plus(back).plus(back.multipliedBy(2).dividedBy(3)).plus(cell),
                cell);
    }
}
