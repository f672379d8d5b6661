package dev.brume.http.internal.console;

import dev.brume.insight.board.BoardCell;
import dev.brume.insight.board.Fate;
import dev.brume.insight.board.Scale;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.EnumMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;

/**
 * What is drawn in a row: one occurrence, or a band of many.
 *
 * @param from where it begins, in hundredths
 * @param width how wide it is, in hundredths; 0 for a single occurrence
 * @param fate by which it is drawn: the one that needs a person most
 * @param count how many occurrences it stands for
 * @param label drawn into it, if there is room
 * @param says what it is, in words
 * @param at the first occurrence in it
 * @param until behind its last cell
 * @param run of a single one, if it is known
 * @param takenOver whether an instance died over any of them
 */
public record Mark(
        double from,
        double width,
        Fate fate,
        long count,
        String label,
        String says,
        Instant at,
        Instant until,
        Optional<Long> run,
        boolean takenOver)
        implements Drawn {
    /** A digit takes so many hundredths of a row that is not shown on the narrowest screen. */
    private static final double DIGIT = 0.85;

    /** {@return the marks of a row} */
    static List<Mark> of(List<BoardCell> cells, Scale scale, Frame frame) {
        List<Mark> marks = new ArrayList<>();
        for (int i = 0; i < cells.size(); i++) {
            int end = i + 1;
            while (end < cells.size() && foldsInto(cells.get(end - 1), cells.get(end))) {
                end++;
            }
            marks.add(of(fold(cells.subList(i, end)), scale, frame));
            i = end - 1;
        }
        return marks;
    }

    /** Neighbours fold that hold many of one and the same fate, which needs nobody. */
    private static boolean foldsInto(BoardCell one, BoardCell next) {
        return one.until().equals(next.from())
                && one.fates().keySet().equals(next.fates().keySet())
                && one.fates().size() == 1
                && (one.count() > 1 || next.count() > 1)
                && one.takenOver() + next.takenOver() == 0
                && one.worst().compareTo(Fate.LATE) > 0;
    }

    private static BoardCell fold(List<BoardCell> cells) {
        if (cells.size() == 1) {
            return cells.get(0);
        }
        Map<Fate, Long> fates = new EnumMap<>(Fate.class);
        cells.forEach(cell -> cell.fates().forEach((fate, count) -> fates.merge(fate, count, Long::sum)));
        BoardCell first = cells.get(0);
        BoardCell last = cells.get(cells.size() - 1);
        return new BoardCell(first.from(), last.until(), first.first(), fates, 0, Optional.empty(), 0);
    }

    private static Mark of(BoardCell cell, Scale scale, Frame frame) {
        boolean single = cell.count() == 1;
        double from = Math.max(0, scale.share(single ? cell.first() : cell.from()));
        double width = single ? 0 : Math.min(100, scale.share(cell.until())) - from;
        Fate worst = cell.worst();
        String count = String.valueOf(cell.fates().get(worst));
        return new Mark(
                from,
                width,
                worst,
                cell.count(),
                width >= DIGIT * (count.length() + 0.6) ? count : "",
                says(cell, single, frame),
                cell.first(),
                cell.until(),
                single ? cell.run() : Optional.empty(),
                cell.takenOver() > 0);
    }

    private static String says(BoardCell cell, boolean single, Frame frame) {
        String what = single
                ? cell.worst().word()
                        + (cell.lateBy() > 0 ? " by " + Frame.size(Duration.ofSeconds(cell.lateBy())) : "")
                : cell.fates().entrySet().stream()
                        .sorted(Map.Entry.comparingByKey())
                        .map(entry -> entry.getValue() + " " + entry.getKey().word())
                        .collect(Collectors.joining(", "));
        String when = single ? frame.time(cell.first()) : frame.time(cell.from()) + " to " + frame.time(cell.until());
        return when + ": " + what + (cell.takenOver() > 0 ? ", taken over" : "");
    }

    /** {@return where it begins, as an address in a picture} */
    public String x() {
        return Axis.percent(from);
    }

    /** {@return how wide it is, as a size in a picture; a band that is hardly there is still seen} */
    public String w() {
        return Axis.percent(Math.max(width, 0.25));
    }

    /** {@return whether it stands for many} */
    public boolean isBand() {
        return width > 0;
    }

    /** {@return the name of its form} */
    public String form() {
        return fate.name().toLowerCase(Locale.ROOT);
    }
}
