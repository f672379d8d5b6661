package dev.brume.history;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.SortedMap;

/**
 * Which hours of a timeframe can be had in sums: whole ones of which nothing was removed, but for one in which it is split.
 *
 * @since 0.1.0
 */
public final class SummedHours {
    private static final Duration HOUR = Duration.ofHours(1);
    private static final Duration DAY = Duration.ofDays(1);

    private final Timeframe frame;
    private final Instant from;
    private final Instant until;
    private final Optional<Instant> split;

    private SummedHours(Timeframe frame, Instant from, Instant until, Optional<Instant> split) {
        this.frame = frame;
        this.from = from;
        this.until = until;
        this.split = split;
    }

    /**
     * {@return the hours that can be had in sums; empty if there are none, or none are asked for}
     *
     * @param keptFrom before it, lines of any job may have been removed
     */
    public static Optional<SummedHours> of(Timeframe frame, Instant keptFrom) {
        if (!frame.isInSums()) {
            return Optional.empty();
        }
        Instant begin = next(frame.from().isAfter(keptFrom) ? frame.from() : keptFrom);
        Instant end = LineSums.hourOf(frame.until());
        Optional<Instant> split =
                frame.split().filter(at -> !LineSums.hourOf(at).equals(at)).map(LineSums::hourOf);
        return begin.isBefore(end) ? Optional.of(new SummedHours(frame, begin, end, split)) : Optional.empty();
    }

    /** The beginning of the first hour that begins at or after an instant. */
    private static Instant next(Instant instant) {
        Instant hour = LineSums.hourOf(instant);
        return hour.equals(instant) ? hour : hour.plus(HOUR);
    }

    /** {@return the beginning of the first of them} */
    public Instant from() {
        return from;
    }

    /** {@return the end of the last of them} */
    public Instant until() {
        return until;
    }

    /** {@return whether an instant is in one of them} */
    public boolean holds(Instant planned) {
        return !planned.isBefore(from)
                && planned.isBefore(until)
                && split.filter(LineSums.hourOf(planned)::equals).isEmpty();
    }

    /** {@return whether all hours of a day are among them, and it is not split} */
    public boolean holdsDay(Instant midnight) {
        Instant next = midnight.plus(DAY);
        return !midnight.isBefore(from)
                && !next.isAfter(until)
                && frame.split()
                        .filter(at -> at.isAfter(midnight) && at.isBefore(next))
                        .isEmpty();
    }

    /**
     * {@return what of a day is among them: the day as a whole, or else its hours}
     *
     * @param hours of the day, by their beginnings
     */
    public List<SummedStretch> of(Instant midnight, SortedMap<Instant, LineSums> hours) {
        if (holdsDay(midnight)) {
            return List.of(new SummedStretch(midnight, midnight.plus(DAY), LineSums.sum(hours.values())));
        }
        return hours.entrySet().stream()
                .filter(hour -> holds(hour.getKey()))
                .map(hour -> new SummedStretch(hour.getKey(), hour.getKey().plus(HOUR), hour.getValue()))
                .toList();
    }

    /** {@return whether all of them can be had of a job of which nothing was removed since an instant} */
    public boolean areKept(Instant keptFrom) {
        return !keptFrom.isAfter(from);
    }

    /** {@return the rest of the timeframe, in order} */
    public List<Timeframe> edges() {
        List<Timeframe> edges = new ArrayList<>();
        edges.add(Timeframe.between(frame.from(), from));
        split.filter(hour -> !hour.isBefore(from) && hour.isBefore(until))
                .ifPresent(hour -> edges.add(Timeframe.between(hour, hour.plus(HOUR))));
        edges.add(Timeframe.between(until, frame.until()));
        edges.removeIf(edge -> !edge.from().isBefore(edge.until()));
        return edges;
    }
}
