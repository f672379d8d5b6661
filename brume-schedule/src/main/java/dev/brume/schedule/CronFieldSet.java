package dev.brume.schedule;

/**
 * The values that one field of a cron expression allows, as bits, and those that depend on the month.
 *
 * @param text the field as written, names in upper case
 * @param bits the fixed values
 * @param fromLast for day-of-month, bit n for {@code L-n}, bit 0 for {@code L}; for day-of-week, bit d
 *     for {@code dL}
 * @param nearest for day-of-month, bit d for {@code dW} and bit 0 for {@code LW}; for day-of-week, bit
 *     {@code 7 * (k - 1) + d} for {@code d#k}
 * @param restricted false only for a day field that is exactly {@code *} or {@code ?}
 */
record CronFieldSet(String text, long bits, long fromLast, long nearest, boolean restricted) {

    boolean has(int value) {
        return (bits >> value & 1) != 0;
    }

    boolean hasSpecials() {
        return (fromLast | nearest) != 0;
    }

    int count() {
        return Long.bitCount(bits);
    }

    int countBefore(int value) {
        return Long.bitCount(bits & ~(-1L << value));
    }

    int first() {
        return Long.numberOfTrailingZeros(bits);
    }

    int last() {
        return 63 - Long.numberOfLeadingZeros(bits);
    }

    /** {@return the first value at or after one, or -1} */
    int atOrAfter(int value) {
        long rest = bits & (-1L << value);
        return value > 63 || rest == 0 ? -1 : Long.numberOfTrailingZeros(rest);
    }

    /** {@return the last value at or before one, or -1} */
    int atOrBefore(int value) {
        long rest = value < 0 ? 0 : bits & (-1L >>> (63 - value));
        return rest == 0 ? -1 : 63 - Long.numberOfLeadingZeros(rest);
    }

    int specialDaysOfMonth(int length, int firstWeekday) {
        int mask = 0;
        for (long rest = fromLast; rest != 0; rest &= rest - 1) {
            int day = length - Long.numberOfTrailingZeros(rest);
            if (day >= 1) {
                mask |= 1 << day;
            }
        }
        for (long rest = nearest; rest != 0; rest &= rest - 1) {
            int day = Long.numberOfTrailingZeros(rest);
            if (day == 0) {
                mask |= 1 << lastWorkday(length, firstWeekday);
            } else if (day <= length) {
                mask |= 1 << nearestWorkday(day, length, firstWeekday);
            }
        }
        return mask;
    }

    int specialWeekdays(int length, int firstWeekday) {
        int mask = 0;
        for (long rest = fromLast; rest != 0; rest &= rest - 1) {
            int weekday = Long.numberOfTrailingZeros(rest);
            int lastWeekday = (firstWeekday + length - 1) % 7;
            mask |= 1 << (length - (lastWeekday - weekday + 7) % 7);
        }
        for (long rest = nearest; rest != 0; rest &= rest - 1) {
            int code = Long.numberOfTrailingZeros(rest);
            int day = 1 + (code % 7 - firstWeekday + 7) % 7 + 7 * (code / 7);
            if (day <= length) {
                mask |= 1 << day;
            }
        }
        return mask;
    }

    private static int lastWorkday(int length, int firstWeekday) {
        int weekday = (firstWeekday + length - 1) % 7;
        return length - (weekday == 6 ? 1 : weekday == 0 ? 2 : 0);
    }

    /** Monday to Friday nearest to a day, without leaving its month. */
    private static int nearestWorkday(int day, int length, int firstWeekday) {
        int weekday = (firstWeekday + day - 1) % 7;
        if (weekday == 6) {
            return day == 1 ? 3 : day - 1;
        }
        if (weekday == 0) {
            return day == length ? day - 2 : day + 1;
        }
        return day;
    }
}
