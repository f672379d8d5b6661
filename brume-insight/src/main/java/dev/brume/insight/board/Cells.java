package dev.brume.insight.board;

import java.time.Duration;
import java.time.Instant;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;

/** Gathers occurrences by cells. Confined to one thread. */
final class Cells {
    private final Scale scale;
    private final TreeMap<Instant, Gathered> cells = new TreeMap<>();

    private static final class Gathered {
        private final EnumMap<Fate, Long> fates = new EnumMap<>(Fate.class);
        private Instant first = Instant.MAX;
        private Optional<Long> run = Optional.empty();
        private long count;
        private long takenOver;
        private long lateBy;
    }

    Cells(Scale scale) {
        this.scale = scale;
    }

    private Gathered at(Instant planned) {
        return cells.computeIfAbsent(scale.cellOf(planned), any -> new Gathered());
    }

    /** Adds so many of a fate, of which the first is at an instant. */
    void add(Instant first, Fate fate, long count) {
        Gathered cell = at(first);
        cell.fates.merge(fate, count, Long::sum);
        cell.first = first.isBefore(cell.first) ? first : cell.first;
        cell.count += count;
    }

    void add(Instant planned, Fate fate, Optional<Long> run, boolean takenOver, Duration late) {
        add(planned, fate, 1);
        Gathered cell = at(planned);
        cell.run = cell.count == 1 ? run : Optional.empty();
        cell.takenOver += takenOver ? 1 : 0;
        cell.lateBy = Math.max(cell.lateBy, fate == Fate.LATE ? late.toSeconds() : 0);
    }

    /** {@return whether a stretch lies within one cell} */
    boolean holds(Instant from, Instant until) {
        return !until.isAfter(scale.cellOf(from).plus(scale.cell()));
    }

    /** Says of some in the cell of an instant, which were added as if they had ended well, that they met another fate. */
    void correct(Instant from, Fate fate, long count) {
        Gathered cell = at(from);
        cell.fates.merge(fate, count, Long::sum);
        cell.fates.merge(Fate.RAN, -count, Long::sum);
        cell.fates.values().removeIf(left -> left == 0);
    }

    /** Says of some in the cell of an instant that an instance died over them. */
    void takenOver(Instant from, long count) {
        at(from).takenOver += count;
    }

    List<BoardCell> all() {
        return cells.entrySet().stream()
                .filter(entry -> !entry.getValue().fates.isEmpty())
                .map(Cells::cell)
                .map(cell -> new BoardCell(
                        cell.from(),
                        cell.from().plus(scale.cell()),
                        cell.first(),
                        cell.fates(),
                        cell.takenOver(),
                        cell.run(),
                        cell.lateBy()))
                .toList();
    }

    private static BoardCell cell(Map.Entry<Instant, Gathered> entry) {
        Gathered cell = entry.getValue();
        return new BoardCell(
                entry.getKey(),
                entry.getKey(),
                cell.first,
                Map.copyOf(cell.fates),
                cell.takenOver,
                cell.run,
                cell.lateBy);
    }
}
