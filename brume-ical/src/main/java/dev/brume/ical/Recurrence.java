package dev.brume.ical;

import dev.brume.ical.RuleParts.Unit;
import dev.brume.schedule.LocalTimes;
import dev.brume.schedule.Marks;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.Arrays;
import java.util.List;
import java.util.stream.IntStream;
import java.util.stream.LongStream;
import org.jspecify.annotations.Nullable;

/**
 * The local times that a RRULE names, DTSTART included.
 *
 * <p>The rule cuts time into periods of its FREQ, of which every INTERVAL-th counts; each is expanded into its
 * times. A search computes which period it begins in, so that the distance from DTSTART costs nothing, and
 * leaps over days, hours and minutes that a BY part rules out. With COUNT all times are known beforehand.
 */
final class Recurrence implements LocalTimes {
    private static final long DAY = 86_400;

    /** RFC 5545 lets a rule name it; it is the first of the next minute then, perhaps of another quarter of an hour. */
    private static final int LEAP_SECOND = 60;

    private static final long LAST = LocalDateTime.of(9999, 12, 31, 23, 59, 59).toEpochSecond(ZoneOffset.UTC);

    /** A search that meets so many empty periods is given up: 400 years of days, or of what is left in them. */
    private static final int MOST_EMPTY = 150_000;

    private final RuleParts parts;
    private final long start;
    private final long firstPeriod;
    private final RuleDays days;
    private final int[] times;
    private final long @Nullable [] counted;
    private final int[] seconds;
    private final int[] minutesAndSeconds;
    private volatile long @Nullable [][] hour;

    /** The days of the period that was looked at last: those of a month or year serve many quarters. */
    private volatile @Nullable DaysOf latest;

    private static final class DaysOf {
        final long period;
        final long[] days;

        DaysOf(long period, long[] days) {
            this.period = period;
            this.days = days;
        }
    }

    Recurrence(RuleParts parts, LocalDateTime dtstart) {
        this(parts, dtstart, null);
    }

    /** Looks at no more days than are granted; confined to one thread then. */
    Recurrence(RuleParts parts, LocalDateTime dtstart, @Nullable Effort effort) {
        this.parts = parts;
        this.start = dtstart.toEpochSecond(ZoneOffset.UTC);
        this.days = new RuleDays(parts, dtstart.toLocalDate(), effort);
        this.firstPeriod = periodOf(start);
        this.times = timesOfDay(parts, dtstart);
        this.seconds = seconds();
        this.minutesAndSeconds = minutesAndSeconds();
        this.counted = parts.count().isPresent() ? count(parts.count().getAsInt()) : null;
    }

    private static int[] timesOfDay(RuleParts parts, LocalDateTime dtstart) {
        return IntStream.of(orElse(parts.hours(), dtstart.getHour()))
                .flatMap(hour -> IntStream.of(orElse(parts.minutes(), dtstart.getMinute()))
                        .flatMap(minute -> IntStream.of(orElse(parts.seconds(), dtstart.getSecond()))
                                .map(second -> hour * 3600 + minute * 60 + second)))
                .sorted()
                .distinct()
                .toArray();
    }

    private static int[] orAll(List<Integer> values) {
        return values.isEmpty() ? IntStream.range(0, 60).toArray() : orElse(values, 0);
    }

    private static int[] orElse(List<Integer> values, int otherwise) {
        return values.isEmpty()
                ? new int[] {otherwise}
                : values.stream().mapToInt(Integer::intValue).toArray();
    }

    /** DTSTART is the first of the times that COUNT counts, whether the rule names it or not. */
    private long[] count(int count) {
        long[] all = new long[count];
        all[0] = start;
        int size = 1;
        for (long at = search(start + 1); size < count && at != NONE; at = search(at + 1)) {
            all[size++] = at;
        }
        return Arrays.copyOf(all, size);
    }

    /** {@return whether the rule itself names DTSTART, which counts either way} */
    boolean names(long dtstart) {
        return search(dtstart) == dtstart;
    }

    @Override
    public long next(long from) {
        if (counted != null) {
            int found = Arrays.binarySearch(counted, from);
            int at = found >= 0 ? found : -found - 1;
            return at < counted.length ? counted[at] : NONE;
        }
        return from <= start ? start : search(from);
    }

    @Override
    public long previous(long from) {
        if (counted != null) {
            int found = Arrays.binarySearch(counted, from);
            int at = found >= 0 ? found : -found - 2;
            return at >= 0 ? counted[at] : NONE;
        }
        if (from < start) {
            return NONE;
        }
        long found = searchBack(from);
        return found == NONE ? start : found;
    }

    @Override
    public boolean isQuicklyCounted() {
        return counted == null
                && parts.positions().isEmpty()
                && !parts.seconds().contains(LEAP_SECOND);
    }

    @Override
    public long[] quarter(long quarter) {
        long begin = quarter * Marks.SECONDS;
        long end = begin + Marks.SECONDS;
        if (!isQuicklyCounted() || begin <= start || end > Math.min(parts.until(), LAST)) {
            return LocalTimes.super.quarter(quarter);
        }
        if (parts.unit().compareTo(Unit.DAY) > 0) {
            return onDay(begin);
        }
        boolean matches = days.matches(Math.floorDiv(begin, DAY))
                && (parts.unit() == Unit.DAY || !ruledOut(parts.hours(), (int) Math.floorMod(begin, DAY) / 3600));
        return !matches ? Marks.none() : parts.unit() == Unit.DAY ? onDay(begin) : inHour(begin);
    }

    private long[] onDay(long begin) {
        long period = periodOf(begin);
        boolean matches =
                aligned(period, true) == period && Arrays.binarySearch(daysOf(period), Math.floorDiv(begin, DAY)) >= 0;
        return matches ? marks(times, (int) Math.floorMod(begin, DAY)) : Marks.none();
    }

    /** Those of sorted seconds that lie within a quarter which begins at one of them. */
    private static long[] marks(int[] sorted, int begin) {
        int at = atOrAfter(sorted, begin);
        if (at == sorted.length || sorted[at] >= begin + Marks.SECONDS) {
            return Marks.none();
        }
        long[] marks = Marks.empty();
        for (; at < sorted.length && sorted[at] < begin + Marks.SECONDS; at++) {
            Marks.set(marks, sorted[at] - begin);
        }
        return marks;
    }

    /** The quarter of a matching hour, for rules that go by hours, minutes or seconds. */
    private long[] inHour(long begin) {
        long[] named = inEachHour()[(int) Math.floorMod(begin, 3600L) / Marks.SECONDS];
        if (parts.interval() == 1) {
            return named;
        }
        if (parts.unit() == Unit.HOUR) {
            return aligned(periodOf(begin), true) == periodOf(begin) ? named : Marks.none();
        }
        long[] marks = Marks.empty();
        long length = parts.unit() == Unit.MINUTE ? 60 : 1;
        long at = beginOf(aligned(periodOf(begin), true)) - begin;
        for (; at < Marks.SECONDS; at += length * parts.interval()) {
            for (int second = (int) at; second < at + length; second++) {
                if (Marks.has(named, second)) {
                    Marks.set(marks, second);
                }
            }
        }
        return marks;
    }

    /** What an hour would hold if each period counted. */
    private long[][] inEachHour() {
        long[][] known = hour;
        if (known == null) {
            known = new long[][] {Marks.empty(), Marks.empty(), Marks.empty(), Marks.empty()};
            int[] minutes = parts.unit() == Unit.HOUR ? minutes() : orAll(parts.minutes());
            int[] inMinute = parts.unit() == Unit.SECOND ? orAll(parts.seconds()) : seconds;
            for (int minute : minutes) {
                for (int second : inMinute) {
                    Marks.set(known[minute / 15], minute % 15 * 60 + second);
                }
            }
            hour = known;
        }
        return known;
    }

    private long search(long from) {
        long last = Math.min(parts.until(), LAST);
        long period = aligned(periodOf(Math.max(from, start)), true);
        for (int empty = 0; empty < MOST_EMPTY; empty++) {
            long begin = beginOf(period);
            if (begin > last) {
                return NONE;
            }
            long leap = leap(begin, true);
            if (leap != begin) {
                if (leap == NONE) {
                    return NONE;
                }
                period = aligned(Math.max(periodOf(leap), period + 1), true);
                continue;
            }
            long found = firstIn(period, Math.max(from, start));
            if (found != NONE) {
                return found <= last ? found : NONE;
            }
            period += parts.interval();
        }
        return NONE;
    }

    private long searchBack(long from) {
        long to = Math.min(from, Math.min(parts.until(), LAST));
        long period = aligned(periodOf(to), false);
        for (int empty = 0; empty < MOST_EMPTY && period >= firstPeriod; empty++) {
            long begin = beginOf(period);
            long leap = leap(begin, false);
            if (leap != begin) {
                if (leap == NONE || leap < start - DAY) {
                    return NONE;
                }
                period = aligned(Math.min(periodOf(leap), period - 1), false);
                continue;
            }
            long found = lastIn(period, to);
            if (found != NONE) {
                return found >= start ? found : NONE;
            }
            period -= parts.interval();
        }
        return NONE;
    }

    /** Where all times of a day count, the days are looked through, not each time of each. */
    private boolean isSearchedByDay() {
        return parts.positions().isEmpty() && parts.unit().compareTo(Unit.DAY) >= 0;
    }

    private long firstIn(long period, long from) {
        if (!isSearchedByDay()) {
            return LongStream.of(expand(period))
                    .filter(time -> time >= from)
                    .findFirst()
                    .orElse(NONE);
        }
        for (long day : daysOf(period)) {
            if (day * DAY + times[times.length - 1] >= from) {
                return day * DAY + times[atOrAfter(times, Math.max(0, from - day * DAY))];
            }
        }
        return NONE;
    }

    private long lastIn(long period, long to) {
        if (!isSearchedByDay()) {
            return LongStream.of(expand(period)).filter(time -> time <= to).reduce(NONE, (a, b) -> b);
        }
        long[] all = daysOf(period);
        for (int i = all.length - 1; i >= 0; i--) {
            if (all[i] * DAY + times[0] <= to) {
                return all[i] * DAY + times[atOrAfter(times, Math.min(DAY, to + 1 - all[i] * DAY)) - 1];
            }
        }
        return NONE;
    }

    /** The place of the first of sorted numbers at or after one. */
    private static int atOrAfter(int[] sorted, long from) {
        int found = Arrays.binarySearch(sorted, (int) from);
        return found >= 0 ? found : -found - 1;
    }

    private long[] daysOf(long period) {
        DaysOf found = latest;
        if (found == null || found.period != period) {
            found = new DaysOf(period, days.of(period));
            latest = found;
        }
        return found.days;
    }

    /** The period itself, or the nearest one in a direction that counts. */
    private long aligned(long period, boolean forwards) {
        long off = Math.floorMod(period - firstPeriod, (long) parts.interval());
        if (off == 0) {
            return period;
        }
        return forwards ? period + parts.interval() - off : period - off;
    }

    private long periodOf(long local) {
        long day = Math.floorDiv(local, DAY);
        return switch (parts.unit()) {
            case SECOND -> local;
            case MINUTE -> Math.floorDiv(local, 60);
            case HOUR -> Math.floorDiv(local, 3600);
            case DAY -> day;
            case WEEK -> days.weekOf(day);
            case MONTH -> {
                LocalDate date = LocalDate.ofEpochDay(day);
                yield date.getYear() * 12L + date.getMonthValue() - 1;
            }
            case YEAR -> LocalDate.ofEpochDay(day).getYear();
        };
    }

    private long beginOf(long period) {
        return switch (parts.unit()) {
            case SECOND -> period;
            case MINUTE -> period * 60;
            case HOUR -> period * 3600;
            case DAY -> period * DAY;
            case WEEK -> days.firstDayOfWeek(period) * DAY;
            case MONTH ->
                LocalDate.of((int) Math.floorDiv(period, 12L), (int) Math.floorMod(period, 12L) + 1, 1)
                                .toEpochDay()
                        * DAY;
            case YEAR -> LocalDate.of((int) period, 1, 1).toEpochDay() * DAY;
        };
    }

    /**
     * Where to go on when the day, hour or minute that a short period lies in is ruled out; the begin itself if it
     * is not, NONE if nothing is left.
     */
    private long leap(long begin, boolean forwards) {
        if (parts.unit().compareTo(Unit.DAY) > 0) {
            return begin;
        }
        long day = Math.floorDiv(begin, DAY);
        if (!days.matches(day)) {
            long other = days.nearestMatching(day, forwards);
            return other == NONE ? NONE : forwards ? other * DAY : other * DAY + DAY - 1;
        }
        int timeOfDay = (int) (begin - day * DAY);
        if (parts.unit() != Unit.DAY && ruledOut(parts.hours(), timeOfDay / 3600)) {
            return edge(begin, 3600, forwards);
        }
        if (parts.unit().compareTo(Unit.HOUR) < 0 && ruledOut(parts.minutes(), timeOfDay / 60 % 60)) {
            return edge(begin, 60, forwards);
        }
        return begin;
    }

    private static boolean ruledOut(List<Integer> values, int value) {
        return !values.isEmpty() && !values.contains(value);
    }

    private static long edge(long local, int unit, boolean forwards) {
        long begin = Math.floorDiv(local, unit) * unit;
        return forwards ? begin + unit : begin - 1;
    }

    /** The times of one period in order, as BYSETPOS leaves them. */
    private long[] expand(long period) {
        long begin = beginOf(period);
        long[] all = switch (parts.unit()) {
            case SECOND ->
                ruledOut(parts.seconds(), (int) Math.floorMod(begin, 60L)) ? new long[0] : new long[] {begin};
            case MINUTE -> offsets(begin, seconds);
            case HOUR -> offsets(begin, minutesAndSeconds);
            default -> onDays(days.of(period));
        };
        return parts.positions().isEmpty() ? all : positions(all);
    }

    private int[] seconds() {
        return IntStream.of(orElse(parts.seconds(), (int) Math.floorMod(start, 60L)))
                .sorted()
                .distinct()
                .toArray();
    }

    private int[] minutes() {
        return orElse(parts.minutes(), (int) (Math.floorMod(start, 3600L) / 60));
    }

    private int[] minutesAndSeconds() {
        return IntStream.of(minutes())
                .flatMap(minute -> IntStream.of(seconds).map(second -> minute * 60 + second))
                .sorted()
                .distinct()
                .toArray();
    }

    private static long[] offsets(long begin, int[] seconds) {
        return IntStream.of(seconds).mapToLong(second -> begin + second).toArray();
    }

    private long[] onDays(long[] matching) {
        long[] all = new long[matching.length * times.length];
        int size = 0;
        for (long day : matching) {
            for (int time : times) {
                all[size++] = day * DAY + time;
            }
        }
        return all;
    }

    private long[] positions(long[] all) {
        return parts.positions().stream()
                .mapToInt(position -> position > 0 ? position - 1 : all.length + position)
                .filter(index -> index >= 0 && index < all.length)
                .sorted()
                .distinct()
                .mapToLong(index -> all[index])
                .toArray();
    }
}
