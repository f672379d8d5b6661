package dev.brume.definitions.phrase;

import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.Month;
import java.util.Collection;
import java.util.Collections;
import java.util.EnumSet;
import java.util.Set;
import java.util.SortedSet;
import java.util.TreeSet;

/**
 * On which days something shall happen. Immutable; two that mean the same days in the same way are equal.
 *
 * @since 0.1.0
 */
public sealed interface OnDays {
    /** The last day of a month, among its days. */
    int LAST_DAY = 32;

    /** The most weeks from one time to the next. */
    int MOST_WEEKS = 52;

    /** On each day. */
    record EachDay() implements OnDays {}

    /** From Monday to Friday. */
    record WorkingDays() implements OnDays {}

    /**
     * On some days of each week.
     *
     * @param days at least one, neither all nor just Monday to Friday
     */
    record Weekdays(Set<DayOfWeek> days) implements OnDays {
        /** Checks them. */
        public Weekdays {
            days = ordered(days);
            if (days.size() == 7 || days.equals(MONDAY_TO_FRIDAY)) {
                throw new IllegalArgumentException("these weekdays have a name of their own");
            }
        }
    }

    /**
     * On some weekdays of every second week, or more seldom.
     *
     * @param weeks from one such week to the next, 2 to {@value #MOST_WEEKS}; weeks begin on Monday
     * @param days at least one
     * @param first the first day of all, which is one of them
     */
    record EveryFewWeeks(int weeks, Set<DayOfWeek> days, LocalDate first) implements OnDays {
        /** Checks them. */
        public EveryFewWeeks {
            days = ordered(days);
            if (weeks < 2 || weeks > MOST_WEEKS) {
                throw new IllegalArgumentException("every " + weeks + " weeks is outside 2 to " + MOST_WEEKS);
            }
            if (!days.contains(first.getDayOfWeek())) {
                throw new IllegalArgumentException(first + " is none of the weekdays that are chosen");
            }
        }
    }

    /**
     * On one weekday of some months, such as the last Friday.
     *
     * @param which of those in a month, 1 to 4; 5 stands for the last
     * @param day the weekday
     * @param months at least one
     */
    record WeekdayOfMonth(int which, DayOfWeek day, Set<Month> months) implements OnDays {
        /** The last of a month. */
        public static final int LAST = 5;

        /** Checks them. */
        public WeekdayOfMonth {
            months = orderedMonths(months);
            if (which < 1 || which > LAST) {
                throw new IllegalArgumentException(which + " is outside 1 to " + LAST);
            }
        }
    }

    /**
     * On the first or the last working day (Monday to Friday) of some months.
     *
     * @param last whether it is the last, not the first
     * @param months at least one
     */
    record WorkingDayOfMonth(boolean last, Set<Month> months) implements OnDays {
        /** Checks them. */
        public WorkingDayOfMonth {
            months = orderedMonths(months);
        }
    }

    /**
     * On some days of some months.
     *
     * @param days 1 to 31, or {@value #LAST_DAY} for the last of the month; at least one, and not all
     * @param months at least one; at least one of the days comes in one of them
     */
    record DaysOfMonth(SortedSet<Integer> days, Set<Month> months) implements OnDays {
        /** Checks them. */
        public DaysOfMonth {
            TreeSet<Integer> sorted = new TreeSet<>(days);
            months = orderedMonths(months);
            if (sorted.isEmpty()) {
                throw new IllegalArgumentException("no day of the month is chosen");
            }
            if (sorted.first() < 1 || sorted.last() > LAST_DAY) {
                throw new IllegalArgumentException("a month has the days 1 to 31");
            }
            if (sorted.headSet(LAST_DAY).size() == 31) {
                throw new IllegalArgumentException("these are all days of the month: choose each day");
            }
            int least = sorted.first();
            if (least < LAST_DAY && months.stream().allMatch(month -> month.maxLength() < least)) {
                throw new IllegalArgumentException("none of the chosen months has a day " + least);
            }
            days = Collections.unmodifiableSortedSet(sorted);
        }
    }

    /** Monday to Friday. */
    Set<DayOfWeek> MONDAY_TO_FRIDAY = Collections.unmodifiableSet(EnumSet.range(DayOfWeek.MONDAY, DayOfWeek.FRIDAY));

    /** All months. */
    Set<Month> ALL_MONTHS = Collections.unmodifiableSet(EnumSet.allOf(Month.class));

    /**
     * {@return those weekdays of each week, by the name that they have if they have one}
     *
     * @throws IllegalArgumentException if there are none
     */
    static OnDays weekdays(Collection<DayOfWeek> days) {
        Set<DayOfWeek> set = ordered(days);
        return set.size() == 7 ? new EachDay() : set.equals(MONDAY_TO_FRIDAY) ? new WorkingDays() : new Weekdays(set);
    }

    private static Set<DayOfWeek> ordered(Collection<DayOfWeek> days) {
        if (days.isEmpty()) {
            throw new IllegalArgumentException("no weekday is chosen");
        }
        return Collections.unmodifiableSet(EnumSet.copyOf(days));
    }

    private static Set<Month> orderedMonths(Collection<Month> months) {
        if (months.isEmpty()) {
            throw new IllegalArgumentException("no month is chosen");
        }
        return Collections.unmodifiableSet(EnumSet.copyOf(months));
    }
}
