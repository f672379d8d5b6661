package dev.brume.schedule;

import dev.brume.schedule.ZoneSegments.Segment;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.Objects;
import java.util.Optional;

/**
 * A cron expression in a zone.
 *
 * <p>Five fields (minute, hour, day-of-month, month, day-of-week) or six with the second first;
 * lists, ranges that may wrap ({@code FRI-MON}), steps, names, {@code L}, {@code L-n}, {@code nW},
 * {@code LW}, {@code 5L}, {@code FRI#2} and the nicknames from {@code @hourly} to {@code @yearly}. When
 * both day fields are restricted a day matches either of them, as POSIX says, unless {@link
 * Days#BOTH} is asked for.
 *
 * <p>When clocks change: an expression whose hour field begins with {@code *} or covers all 24 hours
 * means "keep going", so a skipped hour is skipped and a repeated one counts twice; any other means
 * "at this time of day", so a local time in a gap is owed at the first instant after it and one in a
 * fold the first time only. Both can be set.
 *
 * <pre>
 * 30 2 * * *   Europe/Lisbon  no clock change      02:30 local
 * 30 1 * * *   Europe/Lisbon  2026-03-29, gap      2026-03-29T01:00:00Z  AFTER_GAP
 * 30 1 * * *   Europe/Lisbon  2026-10-25, fold     2026-10-25T00:30:00Z  FIRST_OF_FOLD
 * 0 12 L 2 *   Atlantic/Azores  2028               2028-02-29T13:00:00Z
 * </pre>
 *
 * <p>Immutable and safe for use by many threads.
 */
public final class CronSchedule implements Schedule {
    private static final long FARTHER_THAN_ANY_OFFSET = 2 * 86_400;

    private final String text;
    private final CronPattern pattern;
    private final ZoneId zone;
    private final ZoneSegments segments;
    private final Optional<Gap> gap;
    private final Optional<Fold> fold;
    private final boolean skipsGaps;
    private final Fold effectiveFold;

    private CronSchedule(String text, CronPattern pattern, ZoneId zone, Optional<Gap> gap, Optional<Fold> fold) {
        if (!pattern.everFires()) {
            throw ScheduleSyntaxException.of(
                    text,
                    ScheduleProblem.of(
                            "cron", text, 0, "never fires: no year has such a day (look at day and month together)"));
        }
        this.text = text;
        this.pattern = pattern;
        this.zone = zone;
        this.segments = ZoneSegments.of(zone);
        this.gap = gap;
        this.fold = fold;
        boolean keepsGoing = keepsGoing(pattern);
        this.skipsGaps = gap.orElse(keepsGoing ? Gap.SKIP : Gap.AFTER) == Gap.SKIP;
        this.effectiveFold = fold.orElse(keepsGoing ? Fold.BOTH : Fold.FIRST);
    }

    private static boolean keepsGoing(CronPattern pattern) {
        CronFieldSet hour = pattern.set(CronField.HOUR);
        return hour.text().startsWith("*") || hour.count() == 24;
    }

    /**
     * Reads an expression.
     *
     * @throws ScheduleSyntaxException if anything in it is wrong, or if it can never fire; all
     *     problems are reported together
     */
    public static CronSchedule parse(String text, ZoneId zone) {
        Objects.requireNonNull(zone, "zone");
        CronPattern pattern = new CronPattern(CronParser.parse(text), Days.EITHER);
        return new CronSchedule(text.strip(), pattern, zone, Optional.empty(), Optional.empty());
    }

    /** Returns a copy with a stated gap policy. */
    public CronSchedule withGap(Gap policy) {
        return new CronSchedule(text, pattern, zone, Optional.of(policy), fold);
    }

    /** Returns a copy with a stated fold policy. */
    public CronSchedule withFold(Fold policy) {
        return new CronSchedule(text, pattern, zone, gap, Optional.of(policy));
    }

    /**
     * Returns a copy that combines its day fields as stated.
     *
     * @throws ScheduleSyntaxException if it can never fire so
     */
    public CronSchedule withDays(Days days) {
        return new CronSchedule(text, pattern.with(days), zone, gap, fold);
    }

    /** Returns the expression as written, without surrounding space. */
    public String text() {
        return text;
    }

    @Override
    public ZoneId zone() {
        return zone;
    }

    /** Returns how the day fields combine. */
    public Days days() {
        return pattern.days();
    }

    /** Returns the gap policy in force, stated or by default. */
    public Gap gap() {
        return skipsGaps ? Gap.SKIP : Gap.AFTER;
    }

    /** Returns the fold policy in force, stated or by default. */
    public Fold fold() {
        return effectiveFold;
    }

    /** Returns the gap policy only if it was stated. */
    public Optional<Gap> statedGap() {
        return gap;
    }

    /** Returns the fold policy only if it was stated. */
    public Optional<Fold> statedFold() {
        return fold;
    }

    @Override
    public Optional<Occurrence> next(Instant after) {
        if (after.getEpochSecond() >= ZoneSegments.LAST) {
            return Optional.empty();
        }
        long second = Math.max(after.getEpochSecond() + 1, ZoneSegments.FIRST + 1);
        Segment segment = segments.at(second);
        while (true) {
            if (second == segment.start() && gapHit(segment) != CronPattern.NONE) {
                return Optional.of(occurrence(segment, segment.startLocal()));
            }
            long hit = pattern.nextLocal(second + segment.offset());
            if (hit != CronPattern.NONE && hit < segment.secondPassEndLocal() && effectiveFold == Fold.FIRST) {
                hit = pattern.nextLocal(segment.secondPassEndLocal());
            }
            if (hit == CronPattern.NONE) {
                return Optional.empty();
            }
            boolean leftToSecondPass = hit >= segment.firstPassStartLocal() && effectiveFold == Fold.LAST;
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
        boolean fold = segment.offsetAfter() < segment.offset();
        return fold ? segment.end() : Math.max(segment.end(), hit - FARTHER_THAN_ANY_OFFSET);
    }

    private static long startOfSearchBefore(Segment segment, long hit) {
        boolean fold = segment.offsetBefore() > segment.offset();
        return fold ? segment.start() - 1 : Math.min(segment.start() - 1, hit + FARTHER_THAN_ANY_OFFSET);
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
            long hit = pattern.previousLocal(second + segment.offset());
            if (hit != CronPattern.NONE && hit >= segment.firstPassStartLocal() && effectiveFold == Fold.LAST) {
                hit = pattern.previousLocal(segment.firstPassStartLocal() - 1);
            }
            boolean leftToFirstPass = hit < segment.secondPassEndLocal() && effectiveFold == Fold.FIRST;
            boolean inside = hit != CronPattern.NONE && hit >= segment.startLocal();
            if (inside && !leftToFirstPass) {
                return Optional.of(occurrence(segment, hit));
            }
            if (gapHit(segment) != CronPattern.NONE) {
                return Optional.of(occurrence(segment, segment.startLocal()));
            }
            if (hit == CronPattern.NONE || segment.start() == ZoneSegments.FIRST) {
                return Optional.empty();
            }
            second = startOfSearchBefore(segment, hit);
            segment = segments.at(second);
        }
    }

    /** The first local time that fell into the gap before a segment and is owed after it, or NONE. */
    private long gapHit(Segment segment) {
        if (skipsGaps || !segment.beginsAfterGap()) {
            return CronPattern.NONE;
        }
        long hit = pattern.nextLocal(segment.gapStartLocal());
        return hit < segment.startLocal() ? hit : CronPattern.NONE;
    }

    private Occurrence occurrence(Segment segment, long local) {
        Instant instant = Instant.ofEpochSecond(local - segment.offset());
        if (local == segment.startLocal()) {
            long skipped = gapHit(segment);
            if (skipped != CronPattern.NONE) {
                return new Occurrence(instant, localDateTime(skipped), zone, Optional.of(Note.AFTER_GAP));
            }
        }
        Optional<Note> note = Optional.empty();
        if (local < segment.secondPassEndLocal()) {
            note = Optional.of(Note.SECOND_OF_FOLD);
        } else if (local >= segment.firstPassStartLocal()) {
            note = Optional.of(Note.FIRST_OF_FOLD);
        }
        return new Occurrence(instant, localDateTime(local), zone, note);
    }

    private static LocalDateTime localDateTime(long local) {
        return LocalDateTime.ofEpochSecond(local, 0, ZoneOffset.UTC);
    }

    @Override
    public String words() {
        return CronWords.of(pattern) + ", " + Words.zone(zone);
    }

    @Override
    public boolean equals(Object other) {
        return other instanceof CronSchedule that
                && text.equals(that.text)
                && zone.equals(that.zone)
                && days() == that.days()
                && gap.equals(that.gap)
                && fold.equals(that.fold);
    }

    @Override
    public int hashCode() {
        return Objects.hash(text, zone, days(), gap, fold);
    }

    /** Returns the expression as written; {@link #parse} reads it back. */
    @Override
    public String toString() {
        return text;
    }
}
