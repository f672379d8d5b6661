package dev.brume.schedule;

import dev.brume.schedule.ZoneSegments.Segment;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.zone.ZoneOffsetTransition;
import java.util.Objects;
import java.util.Optional;

/**
 * Local times put on the time line of a zone: every gap and fold is met as the policies say.
 *
 * <p>Immutable and safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class WallClock implements Timeline {
    private static final long FARTHER_THAN_ANY_OFFSET = 2 * 86_400;

    private final LocalTimes times;
    private final ZoneId zone;
    private final ZoneSegments segments;
    private final boolean skipsGaps;
    private final Fold fold;

    /** Creates the time line of a rule. */
    public WallClock(LocalTimes times, ZoneId zone, Gap gap, Fold fold) {
        this.times = Objects.requireNonNull(times, "times");
        this.zone = Objects.requireNonNull(zone, "zone");
        this.segments = ZoneSegments.of(zone);
        this.skipsGaps = gap == Gap.SKIP;
        this.fold = Objects.requireNonNull(fold, "fold");
    }

    /** {@return the rule} */
    public LocalTimes times() {
        return times;
    }

    /** {@return the zone} */
    public ZoneId zone() {
        return zone;
    }

    /** {@return the gap policy} */
    public Gap gap() {
        return skipsGaps ? Gap.SKIP : Gap.AFTER;
    }

    /** {@return the fold policy} */
    public Fold fold() {
        return fold;
    }

    /** {@return the same time line for another rule} */
    WallClock with(LocalTimes other) {
        return new WallClock(other, zone, gap(), fold);
    }

    @Override
    public Optional<Occurrence> next(Instant after) {
        if (after.getEpochSecond() >= ZoneSegments.LAST) {
            return Optional.empty();
        }
        long second = Math.max(after.getEpochSecond() + 1, ZoneSegments.FIRST + 1);
        Segment segment = segments.at(second);
        while (true) {
            if (second == segment.start() && gapHit(segment) != LocalTimes.NONE) {
                return Optional.of(occurrence(segment, segment.startLocal()));
            }
            long hit = times.next(second + segment.offset());
            if (hit != LocalTimes.NONE && hit < segment.secondPassEndLocal() && fold == Fold.FIRST) {
                hit = times.next(segment.secondPassEndLocal());
            }
            if (hit == LocalTimes.NONE) {
                return Optional.empty();
            }
            boolean leftToSecondPass = hit >= segment.firstPassStartLocal() && fold == Fold.LAST;
            if (hit < segment.endLocal() && !leftToSecondPass) {
                return Optional.of(occurrence(segment, hit));
            }
            second = startOfSearchAfter(segment, hit);
            segment = segments.at(second);
        }
    }

    /**
     * The next segment, or a far one at once when nothing matches until then. Behind a fold local time has
     * stepped back, so the segment right after one is always searched itself.
     */
    private static long startOfSearchAfter(Segment segment, long hit) {
        boolean stepsBack = segment.offsetAfter() < segment.offset();
        return stepsBack ? segment.end() : Math.max(segment.end(), hit - FARTHER_THAN_ANY_OFFSET);
    }

    private static long startOfSearchBefore(Segment segment, long hit) {
        boolean stepsBack = segment.offsetBefore() > segment.offset();
        return stepsBack ? segment.start() - 1 : Math.min(segment.start() - 1, hit + FARTHER_THAN_ANY_OFFSET);
    }

    @Override
    public Optional<Occurrence> previous(Instant before) {
        if (before.getEpochSecond() <= ZoneSegments.FIRST) {
            return Optional.empty();
        }
        long second = before.getNano() > 0 ? before.getEpochSecond() : before.getEpochSecond() - 1;
        second = Math.min(second, ZoneSegments.LAST - 1);
        Segment segment = segments.at(second);
        while (true) {
            long hit = times.previous(second + segment.offset());
            if (hit != LocalTimes.NONE && hit >= segment.firstPassStartLocal() && fold == Fold.LAST) {
                hit = times.previous(segment.firstPassStartLocal() - 1);
            }
            boolean leftToFirstPass = hit < segment.secondPassEndLocal() && fold == Fold.FIRST;
            boolean inside = hit != LocalTimes.NONE && hit >= segment.startLocal();
            if (inside && !leftToFirstPass) {
                return Optional.of(occurrence(segment, hit));
            }
            if (gapHit(segment) != LocalTimes.NONE) {
                return Optional.of(occurrence(segment, segment.startLocal()));
            }
            if (hit == LocalTimes.NONE || segment.start() == ZoneSegments.FIRST) {
                return Optional.empty();
            }
            second = startOfSearchBefore(segment, hit);
            segment = segments.at(second);
        }
    }

    /** Counts a segment of the zone at a time, without looking at each occurrence. */
    @Override
    public long count(Instant from, Instant until) {
        long first = Math.max(ceil(from), ZoneSegments.FIRST + 1);
        long end = Math.min(ceil(until), ZoneSegments.LAST);
        long count = 0;
        while (first < end) {
            Segment segment = segments.at(first);
            long startLocal = segment.startLocal();
            if (first == segment.start()
                    && gapHit(segment) != LocalTimes.NONE
                    && times.next(startLocal) != startLocal) {
                count++;
            }
            long low = first + segment.offset();
            long high = Math.min(segment.end(), end) + segment.offset();
            low = fold == Fold.FIRST ? Math.max(low, segment.secondPassEndLocal()) : low;
            high = fold == Fold.LAST ? Math.min(high, segment.firstPassStartLocal()) : high;
            if (low < high) {
                count += times.count(low, high);
            }
            first = segment.end();
            if (times.next(first - FARTHER_THAN_ANY_OFFSET) == LocalTimes.NONE) {
                return count;
            }
        }
        return count;
    }

    static long ceil(Instant instant) {
        return instant.getEpochSecond() + (instant.getNano() > 0 ? 1 : 0);
    }

    /** The first local time that fell into the gap before a segment and is owed after it, or NONE. */
    private long gapHit(Segment segment) {
        if (skipsGaps || !segment.beginsAfterGap()) {
            return LocalTimes.NONE;
        }
        long hit = times.next(segment.gapStartLocal());
        return hit < segment.startLocal() ? hit : LocalTimes.NONE;
    }

    private Occurrence occurrence(Segment segment, long local) {
        Instant instant = Instant.ofEpochSecond(local - segment.offset());
        long owed = local;
        int notes = 0;
        if (local == segment.startLocal()) {
            long skipped = gapHit(segment);
            if (skipped != LocalTimes.NONE) {
                owed = skipped;
                notes = Notes.bit(Note.AFTER_GAP);
            }
        }
        if (notes == 0 && local < segment.secondPassEndLocal()) {
            notes = Notes.bit(Note.SECOND_OF_FOLD);
        } else if (notes == 0 && local >= segment.firstPassStartLocal()) {
            notes = Notes.bit(Note.FIRST_OF_FOLD);
        }
        long nominal = times.nominal(owed);
        notes |= nominal == owed ? 0 : Notes.bit(Note.MOVED);
        notes |= times.merged(owed) ? Notes.bit(Note.MERGED) : 0;
        return new Occurrence(instant, LocalDateTime.ofEpochSecond(nominal, 0, ZoneOffset.UTC), zone, Notes.of(notes));
    }

    /** {@return whether the rule names a local time that a change skips, or that comes twice by it} */
    public boolean isTouchedBy(ZoneOffsetTransition change) {
        long before = change.getDateTimeBefore().toEpochSecond(ZoneOffset.UTC);
        long after = change.getDateTimeAfter().toEpochSecond(ZoneOffset.UTC);
        return times.count(Math.min(before, after), Math.max(before, after)) > 0;
    }
}
