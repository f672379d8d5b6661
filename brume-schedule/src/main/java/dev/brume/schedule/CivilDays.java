package dev.brume.schedule;

/**
 * Calendar arithmetic on plain numbers: the proleptic Gregorian calendar in days since 1970-01-01.
 *
 * <p>{@code java.time} gives the same answers; this gives them without objects, which the search for
 * the next occurrence needs a few times per call. The conversions count in 400-year eras that begin on 1 March, so that the
 * leap day is the last of its year.
 */
final class CivilDays {
    private static final int DAYS_IN_ERA = 146_097;
    private static final int TO_MARCH_OF_YEAR_ZERO = 719_468;

    private CivilDays() {}

    /** Packs year, month and day: {@code year * 512 + month * 32 + day}; unpack with the methods below. */
    static long fromEpochDay(long epochDay) {
        long shifted = epochDay + TO_MARCH_OF_YEAR_ZERO;
        long era = Math.floorDiv(shifted, DAYS_IN_ERA);
        int dayOfEra = (int) (shifted - era * DAYS_IN_ERA);
        int yearOfEra = (dayOfEra - dayOfEra / 1460 + dayOfEra / 36_524 - dayOfEra / 146_096) / 365;
        int dayOfYear = dayOfEra - (365 * yearOfEra + yearOfEra / 4 - yearOfEra / 100);
        int marchMonth = (5 * dayOfYear + 2) / 153;
        int day = dayOfYear - (153 * marchMonth + 2) / 5 + 1;
        int month = marchMonth < 10 ? marchMonth + 3 : marchMonth - 9;
        long year = yearOfEra + era * 400 + (month <= 2 ? 1 : 0);
        return year * 512 + month * 32L + day;
    }

    static int year(long packed) {
        return (int) (packed >> 9);
    }

    static int month(long packed) {
        return (int) (packed >> 5) & 15;
    }

    static int day(long packed) {
        return (int) packed & 31;
    }

    static long toEpochDay(int year, int month, int day) {
        long shiftedYear = month <= 2 ? year - 1L : year;
        long era = Math.floorDiv(shiftedYear, 400L);
        int yearOfEra = (int) (shiftedYear - era * 400);
        int dayOfYear = (153 * (month > 2 ? month - 3 : month + 9) + 2) / 5 + day - 1;
        int dayOfEra = yearOfEra * 365 + yearOfEra / 4 - yearOfEra / 100 + dayOfYear;
        return era * DAYS_IN_ERA + dayOfEra - TO_MARCH_OF_YEAR_ZERO;
    }

    static int lengthOfMonth(int year, int month) {
        return month == 2 ? (isLeap(year) ? 29 : 28) : 30 + ((month + (month >> 3)) & 1);
    }

    static boolean isLeap(int year) {
        return (year & 3) == 0 && (year % 100 != 0 || year % 400 == 0);
    }

    /** {@return the day of the week, Sunday as 0} */
    static int dayOfWeek(long epochDay) {
        return (int) Math.floorMod(epochDay + 4, 7L);
    }
}
