package dev.brume.schedule;

import java.time.Instant;
import java.time.ZoneId;
import java.time.zone.ZoneOffsetTransition;
import java.time.zone.ZoneRules;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.concurrent.ConcurrentHashMap;

/**
 * The time line of a zone, cut into segments of one offset each.
 *
 * <p>Within a segment local time runs evenly, so a rule is searched there without a look at the zone;
 * gaps and folds exist only where two segments meet. Segments up to {@link #TABLE_END} are laid out
 * once per zone; later ones are asked of {@code java.time} each time. All numbers are seconds since
 * the epoch. Immutable and safe for use by many threads.
 */
final class ZoneSegments {
    /** The ends of what is looked at: 158,000 years either way, well within what java.time can hold. */
    static final long FIRST = -5_000_000_000_000L;

    static final long LAST = 5_000_000_000_000L;
    private static final Instant TABLE_END = Instant.parse("2200-01-01T00:00:00Z");
    private static final ConcurrentHashMap<ZoneId, ZoneSegments> KNOWN = new ConcurrentHashMap<>();

    private final ZoneRules rules;
    private final Segment[] table;
    private final long[] starts;

    /**
     * A stretch of one offset.
     *
     * @param start the first second, inclusive
     * @param end the second after the last
     * @param offset local minus UTC, in seconds
     * @param offsetBefore the offset of the segment before
     * @param offsetAfter the offset of the segment after
     */
    record Segment(long start, long end, int offset, int offsetBefore, int offsetAfter) {

        boolean beginsAfterGap() {
            return offset > offsetBefore;
        }

        /** The first local second that the gap before this segment left out. */
        long gapStartLocal() {
            return start + offsetBefore;
        }

        long startLocal() {
            return start + offset;
        }

        long endLocal() {
            return end + offset;
        }

        /** Local seconds below this are here for the second time. */
        long secondPassEndLocal() {
            return start + Math.max(offset, offsetBefore);
        }

        /** Local seconds from this on will come again in the segment after. */
        long firstPassStartLocal() {
            return end + Math.min(offset, offsetAfter);
        }
    }

    private ZoneSegments(ZoneRules rules) {
        this.rules = rules;
        List<ZoneOffsetTransition> transitions = new ArrayList<>(rules.getTransitions());
        Instant at = transitions.isEmpty()
                ? Instant.EPOCH
                : transitions.get(transitions.size() - 1).getInstant();
        for (ZoneOffsetTransition next = rules.nextTransition(at);
                next != null && next.getInstant().isBefore(TABLE_END);
                next = rules.nextTransition(next.getInstant())) {
            transitions.add(next);
        }
        table = layOut(transitions);
        starts = Arrays.stream(table).mapToLong(Segment::start).toArray();
    }

    static ZoneSegments of(ZoneId zone) {
        return KNOWN.computeIfAbsent(zone, id -> new ZoneSegments(id.getRules()));
    }

    private Segment[] layOut(List<ZoneOffsetTransition> transitions) {
        if (transitions.isEmpty()) {
            int offset = rules.getOffset(Instant.EPOCH).getTotalSeconds();
            return new Segment[] {new Segment(FIRST, LAST, offset, offset, offset)};
        }
        List<Segment> segments = new ArrayList<>();
        long start = FIRST;
        int before = transitions.get(0).getOffsetBefore().getTotalSeconds();
        for (ZoneOffsetTransition transition : transitions) {
            int offset = transition.getOffsetBefore().getTotalSeconds();
            int after = transition.getOffsetAfter().getTotalSeconds();
            segments.add(new Segment(start, transition.toEpochSecond(), offset, before, after));
            start = transition.toEpochSecond();
            before = offset;
        }
        ZoneOffsetTransition last = transitions.get(transitions.size() - 1);
        if (rules.nextTransition(last.getInstant()) == null) {
            int offset = last.getOffsetAfter().getTotalSeconds();
            segments.add(new Segment(start, LAST, offset, before, offset));
        }
        return segments.toArray(Segment[]::new);
    }

    /** {@return the segment that holds a second} */
    Segment at(long second) {
        if (second >= table[table.length - 1].end()) {
            return asked(second);
        }
        int found = Arrays.binarySearch(starts, second);
        return table[found >= 0 ? found : -found - 2];
    }

    private Segment asked(long second) {
        Instant instant = Instant.ofEpochSecond(second);
        ZoneOffsetTransition begin = rules.previousTransition(instant.plusSeconds(1));
        ZoneOffsetTransition end = rules.nextTransition(instant);
        int offset = rules.getOffset(instant).getTotalSeconds();
        return new Segment(
                begin == null ? FIRST : begin.toEpochSecond(),
                end == null ? LAST : end.toEpochSecond(),
                offset,
                begin == null ? offset : begin.getOffsetBefore().getTotalSeconds(),
                end == null ? offset : end.getOffsetAfter().getTotalSeconds());
    }
}
