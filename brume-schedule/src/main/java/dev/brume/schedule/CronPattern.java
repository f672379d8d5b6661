package dev.brume.schedule;

import org.jspecify.annotations.Nullable;

/**
 * The compiled fields of a cron expression: which local seconds match, with no thought of zones.
 *
 * <p>Every field is a set of bits, so a month's matching days are a few operations and the search
 * jumps from match to match. Local time is counted in seconds since 1970-01-01T00:00 on the wall
 * clock. Immutable and safe for use by many threads.
 */
final class CronPattern implements LocalTimes {
    private static final int DAY_SECONDS = 86_400;
    private static final int QUARTERS_OF_DAY = DAY_SECONDS / Marks.SECONDS;
    private static final int FIRST_YEAR = 1;
    private static final int LAST_YEAR = 9999;
    private static final int YEARS_OF_CYCLE = 400;
    private static final int FEW_YEARS = 4;

    /** The days 1, 8, 15, 22 and 29. */
    private static final int EVERY_SEVENTH = 1 << 1 | 1 << 8 | 1 << 15 | 1 << 22 | 1 << 29;

    private static final long FIRST_LOCAL = CivilDays.toEpochDay(FIRST_YEAR, 1, 1) * DAY_SECONDS;
    private static final long LAST_LOCAL = CivilDays.toEpochDay(LAST_YEAR + 1, 1, 1) * DAY_SECONDS - 1;

    private final CronFieldSet second;
    private final CronFieldSet minute;
    private final CronFieldSet hour;
    private final CronFieldSet dayOfMonth;
    private final CronFieldSet month;
    private final CronFieldSet dayOfWeek;
    private final Days days;
    private final int[] weekdayMasks;
    private final boolean plainDays;
    private volatile long @Nullable [] yearSums;
    private volatile long @Nullable [][] quarters;

    CronPattern(CronFieldSet[] sets, Days days) {
        second = sets[CronField.SECOND.ordinal()];
        minute = sets[CronField.MINUTE.ordinal()];
        hour = sets[CronField.HOUR.ordinal()];
        dayOfMonth = sets[CronField.DAY_OF_MONTH.ordinal()];
        month = sets[CronField.MONTH.ordinal()];
        dayOfWeek = sets[CronField.DAY_OF_WEEK.ordinal()];
        this.days = days;
        weekdayMasks = weekdayMasks(dayOfWeek.bits());
        plainDays = !dayOfMonth.hasSpecials() && !dayOfWeek.hasSpecials();
    }

    CronPattern with(Days other) {
        return new CronPattern(new CronFieldSet[] {second, minute, hour, dayOfMonth, month, dayOfWeek}, other);
    }

    CronFieldSet set(CronField field) {
        return switch (field) {
            case SECOND -> second;
            case MINUTE -> minute;
            case HOUR -> hour;
            case DAY_OF_MONTH -> dayOfMonth;
            case MONTH -> month;
            case DAY_OF_WEEK -> dayOfWeek;
        };
    }

    Days days() {
        return days;
    }

    boolean eitherDayFieldDecides() {
        return days == Days.EITHER && dayOfMonth.restricted() && dayOfWeek.restricted();
    }

    /** For each weekday of the 1st, the days of a month whose weekday is set, as bits 1 to 31. */
    private static int[] weekdayMasks(long weekdays) {
        int[] masks = new int[7];
        for (int first = 0; first < 7; first++) {
            for (int weekday = 0; weekday < 7; weekday++) {
                if ((weekdays >> weekday & 1) != 0) {
                    masks[first] |= EVERY_SEVENTH << (weekday - first + 7) % 7;
                }
            }
        }
        return masks;
    }

    /** {@return whether any day of any year matches; 28 years hold every shape a year can have} */
    boolean everFires() {
        for (int year = 2000; year < 2028; year++) {
            for (int m = 1; m <= 12; m++) {
                if (month.has(m) && dayMask(year, m) != 0) {
                    return true;
                }
            }
        }
        return false;
    }

    /** {@return the first matching local second at or after one, or {@link #NONE}} */
    @Override
    public long next(long from) {
        if (from > LAST_LOCAL) {
            return NONE;
        }
        long start = Math.max(from, FIRST_LOCAL);
        long day = Math.floorDiv(start, DAY_SECONDS);
        long onDay = nextDay(day);
        if (onDay == day) {
            int time = nextTime((int) (start - day * DAY_SECONDS));
            if (time >= 0) {
                return day * DAY_SECONDS + time;
            }
            onDay = nextDay(day + 1);
        }
        return onDay == NONE ? NONE : onDay * DAY_SECONDS + nextTime(0);
    }

    /** {@return the last matching local second at or before one, or {@link #NONE}} */
    @Override
    public long previous(long from) {
        if (from < FIRST_LOCAL) {
            return NONE;
        }
        long start = Math.min(from, LAST_LOCAL);
        long day = Math.floorDiv(start, DAY_SECONDS);
        long onDay = previousDay(day);
        if (onDay == day) {
            int time = previousTime((int) (start - day * DAY_SECONDS));
            if (time >= 0) {
                return day * DAY_SECONDS + time;
            }
            onDay = previousDay(day - 1);
        }
        return onDay == NONE ? NONE : onDay * DAY_SECONDS + previousTime(DAY_SECONDS - 1);
    }

    /** Counts by whole years, months and days: what a day holds is the same on all of them. */
    @Override
    public long count(long from, long until) {
        long start = Math.max(from, FIRST_LOCAL);
        long end = Math.min(until, LAST_LOCAL + 1);
        if (start >= end) {
            return 0;
        }
        long years = daysOfYears(yearOf(start), yearOf(end)) * timesPerDay();
        return years + countInYearBefore(end) - countInYearBefore(start);
    }

    private static int yearOf(long local) {
        return CivilDays.year(CivilDays.fromEpochDay(Math.floorDiv(local, DAY_SECONDS)));
    }

    @Override
    public boolean isQuicklyCounted() {
        return true;
    }

    @Override
    public long[] quarter(long quarter) {
        long day = Math.floorDiv(quarter, (long) QUARTERS_OF_DAY);
        int ofDay = (int) (quarter - day * QUARTERS_OF_DAY);
        return hour.has(ofDay / 4) && matches(day) ? quarters()[ofDay % 4] : Marks.none();
    }

    /** What the four quarters of a matching hour hold. */
    private long[][] quarters() {
        long[][] known = quarters;
        if (known == null) {
            known = new long[][] {Marks.empty(), Marks.empty(), Marks.empty(), Marks.empty()};
            for (int m = minute.atOrAfter(0); m >= 0; m = minute.atOrAfter(m + 1)) {
                for (int s = second.atOrAfter(0); s >= 0; s = second.atOrAfter(s + 1)) {
                    Marks.set(known[m / 15], m % 15 * 60 + s);
                }
            }
            quarters = known;
        }
        return known;
    }

    private boolean matches(long epochDay) {
        long date = CivilDays.fromEpochDay(epochDay);
        int year = CivilDays.year(date);
        int m = CivilDays.month(date);
        return year >= FIRST_YEAR
                && year <= LAST_YEAR
                && month.has(m)
                && (dayMask(year, m) >> CivilDays.day(date) & 1) != 0;
    }

    private long countInYearBefore(long local) {
        long day = Math.floorDiv(local, DAY_SECONDS);
        long date = CivilDays.fromEpochDay(day);
        int year = CivilDays.year(date);
        int m = CivilDays.month(date);
        int ownDays = month.has(m) ? dayMask(year, m) : 0;
        long matching = Integer.bitCount(ownDays & ((1 << CivilDays.day(date)) - 1));
        for (int earlier = month.atOrAfter(1); earlier > 0 && earlier < m; earlier = month.atOrAfter(earlier + 1)) {
            matching += Integer.bitCount(dayMask(year, earlier));
        }
        boolean today = (ownDays >> CivilDays.day(date) & 1) != 0;
        return matching * timesPerDay() + (today ? timesBefore((int) (local - day * DAY_SECONDS)) : 0);
    }

    /** The matching days from one year until another; a few years need no sums of four centuries. */
    private long daysOfYears(int from, int until) {
        if (until - from > FEW_YEARS) {
            return daysBeforeYear(until) - daysBeforeYear(from);
        }
        long matching = 0;
        for (int year = from; year < until; year++) {
            matching += daysOfYear(year);
        }
        return matching;
    }

    /** The matching days of all years from the first one on; the calendar repeats after 400 of them. */
    private long daysBeforeYear(int year) {
        int cycles = (year - FIRST_YEAR) / YEARS_OF_CYCLE;
        int rest = (year - FIRST_YEAR) % YEARS_OF_CYCLE;
        long[] sums = yearSums();
        return cycles * sums[YEARS_OF_CYCLE] + sums[rest];
    }

    private long[] yearSums() {
        long[] sums = yearSums;
        if (sums == null) {
            sums = new long[YEARS_OF_CYCLE + 1];
            for (int i = 0; i < YEARS_OF_CYCLE; i++) {
                sums[i + 1] = sums[i] + daysOfYear(FIRST_YEAR + i);
            }
            yearSums = sums;
        }
        return sums;
    }

    private int daysOfYear(int year) {
        int matching = 0;
        for (int m = month.atOrAfter(1); m > 0; m = month.atOrAfter(m + 1)) {
            matching += Integer.bitCount(dayMask(year, m));
        }
        return matching;
    }

    long timesPerDay() {
        return (long) second.count() * minute.count() * hour.count();
    }

    private int timesBefore(int secondOfDay) {
        int h = secondOfDay / 3600;
        int m = secondOfDay / 60 % 60;
        int perMinute = second.count();
        int perHour = minute.count() * perMinute;
        int count = hour.countBefore(h) * perHour;
        if (hour.has(h)) {
            count += minute.countBefore(m) * perMinute;
            count += minute.has(m) ? second.countBefore(secondOfDay % 60) : 0;
        }
        return count;
    }

    /** The shortest time from one match to the next, in seconds, were every day a matching one. */
    long smallestInterval() {
        int first = nextTime(0);
        long smallest = (long) DAY_SECONDS - previousTime(DAY_SECONDS - 1) + first;
        int at = first;
        while (at + 1 < DAY_SECONDS && smallest > 1) {
            int after = nextTime(at + 1);
            if (after < 0) {
                return smallest;
            }
            smallest = Math.min(smallest, after - at);
            at = after;
        }
        return smallest;
    }

    private int nextTime(int from) {
        int h = hour.atOrAfter(from / 3600);
        if (h < 0) {
            return -1;
        }
        boolean sameHour = h == from / 3600;
        int m = minute.atOrAfter(sameHour ? from / 60 % 60 : 0);
        if (m >= 0) {
            boolean sameMinute = sameHour && m == from / 60 % 60;
            int s = second.atOrAfter(sameMinute ? from % 60 : 0);
            if (s >= 0) {
                return h * 3600 + m * 60 + s;
            }
            m = minute.atOrAfter(m + 1);
            if (m >= 0) {
                return h * 3600 + m * 60 + second.first();
            }
        }
        h = hour.atOrAfter(h + 1);
        return h < 0 ? -1 : h * 3600 + minute.first() * 60 + second.first();
    }

    private int previousTime(int from) {
        int h = hour.atOrBefore(from / 3600);
        if (h < 0) {
            return -1;
        }
        boolean sameHour = h == from / 3600;
        int m = minute.atOrBefore(sameHour ? from / 60 % 60 : 59);
        if (m >= 0) {
            boolean sameMinute = sameHour && m == from / 60 % 60;
            int s = second.atOrBefore(sameMinute ? from % 60 : 59);
            if (s >= 0) {
                return h * 3600 + m * 60 + s;
            }
            m = minute.atOrBefore(m - 1);
            if (m >= 0) {
                return h * 3600 + m * 60 + second.last();
            }
        }
        h = hour.atOrBefore(h - 1);
        return h < 0 ? -1 : h * 3600 + minute.last() * 60 + second.last();
    }

    private long nextDay(long epochDay) {
        long date = CivilDays.fromEpochDay(epochDay);
        int year = CivilDays.year(date);
        int m = CivilDays.month(date);
        int notBefore = CivilDays.day(date);
        while (year <= LAST_YEAR) {
            int found = month.atOrAfter(m);
            if (found < 0) {
                year++;
                m = 1;
                notBefore = 1;
                continue;
            }
            int mask = dayMask(year, found) & -(1 << (found == m ? notBefore : 1));
            if (mask != 0) {
                return CivilDays.toEpochDay(year, found, Integer.numberOfTrailingZeros(mask));
            }
            m = found + 1;
            notBefore = 1;
        }
        return NONE;
    }

    private long previousDay(long epochDay) {
        long date = CivilDays.fromEpochDay(epochDay);
        int year = CivilDays.year(date);
        int m = CivilDays.month(date);
        int notAfter = CivilDays.day(date);
        while (year >= FIRST_YEAR) {
            int found = month.atOrBefore(m);
            if (found < 1) {
                year--;
                m = 12;
                notAfter = 31;
                continue;
            }
            int mask = dayMask(year, found) & (-1 >>> (31 - (found == m ? notAfter : 31)));
            if (mask != 0) {
                return CivilDays.toEpochDay(year, found, 31 - Integer.numberOfLeadingZeros(mask));
            }
            m = found - 1;
            notAfter = 31;
        }
        return NONE;
    }

    /** The matching days of a month, as bits 1 to 31. */
    private int dayMask(int year, int m) {
        int length = CivilDays.lengthOfMonth(year, m);
        int all = (int) ((2L << length) - 2);
        if (!dayOfMonth.restricted() && !dayOfWeek.restricted()) {
            return all;
        }
        int firstWeekday = CivilDays.dayOfWeek(CivilDays.toEpochDay(year, m, 1));
        int byMonth = (int) dayOfMonth.bits();
        int byWeek = weekdayMasks[firstWeekday];
        if (!plainDays) {
            byMonth |= dayOfMonth.specialDaysOfMonth(length, firstWeekday);
            byWeek |= dayOfWeek.specialWeekdays(length, firstWeekday);
        }
        if (!dayOfWeek.restricted()) {
            return byMonth & all;
        }
        if (!dayOfMonth.restricted()) {
            return byWeek & all;
        }
        return (days == Days.BOTH ? byMonth & byWeek : byMonth | byWeek) & all;
    }
}
