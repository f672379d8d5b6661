package dev.brume.schedule;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;

/**
 * The occurrences of several schedules together; an instant that some share is owed once.
 *
 * <p>Where they share one, the occurrence is that of the schedule given first. Immutable and safe for use by
 * many threads.
 *
 * @since 0.1.0
 */
public final class Union implements Timeline {
    private final List<Timeline> parts;

    private Union(List<Timeline> parts) {
        this.parts = parts;
    }

    /** Joins timelines. */
    public static Timeline of(List<? extends Timeline> parts) {
        return parts.size() == 1 ? parts.get(0) : new Union(List.copyOf(parts));
    }

    @Override
    public Optional<Occurrence> next(Instant after) {
        Optional<Occurrence> first = Optional.empty();
        for (Timeline part : parts) {
            Optional<Occurrence> next = part.next(after);
            if (next.isPresent()
                    && (first.isEmpty()
                            || next.get().instant().isBefore(first.get().instant()))) {
                first = next;
            }
        }
        return first;
    }

    @Override
    public Optional<Occurrence> previous(Instant before) {
        Optional<Occurrence> last = Optional.empty();
        for (Timeline part : parts) {
            Optional<Occurrence> previous = part.previous(before);
            if (previous.isPresent()
                    && (last.isEmpty()
                            || previous.get().instant().isAfter(last.get().instant()))) {
                last = previous;
            }
        }
        return last;
    }

    /** Counts fixed grids by arithmetic, wall clocks by the quarter of an hour; else the densest part as it counts itself, and of the others those that no denser part has. */
    @Override
    public long count(Instant from, Instant until) {
        if (parts.size() <= Grids.MOST && parts.stream().allMatch(EverySchedule.class::isInstance)) {
            return Grids.count(parts.stream().map(EverySchedule.class::cast).toList(), from, until);
        }
        if (!parts.isEmpty() && parts.stream().allMatch(WallClockSchedule.class::isInstance)) {
            return Quarters.count(
                    this,
                    parts.stream()
                            .map(part -> ((WallClockSchedule) part).clock())
                            .toList(),
                    from,
                    until);
        }
        record Counted(Timeline part, long count) {}
        List<Counted> counted = new ArrayList<>();
        parts.forEach(part -> counted.add(new Counted(part, part.count(from, until))));
        counted.sort(Comparator.comparingLong(Counted::count).reversed());
        long total = 0;
        List<Timeline> denser = new ArrayList<>();
        for (Counted each : counted) {
            total += denser.isEmpty()
                    ? each.count
                    : each.part
                            .between(from, until)
                            .filter(occurrence -> denser.stream().noneMatch(other -> has(other, occurrence.instant())))
                            .count();
            denser.add(each.part);
        }
        return total;
    }

    private static boolean has(Timeline part, Instant instant) {
        return part.next(Instants.justBefore(instant))
                .filter(found -> found.instant().equals(instant))
                .isPresent();
    }
}
