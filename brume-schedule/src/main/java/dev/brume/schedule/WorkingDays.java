package dev.brume.schedule;

import java.util.List;

/** Which days count: all that are required by every required calendar and excluded by none. */
final class WorkingDays {
    /** How far an occurrence may be moved, in days. */
    static final int FARTHEST = 366;

    private final List<DayCalendar> excluded;
    private final List<DayCalendar> required;

    WorkingDays(List<DayCalendar> excluded, List<DayCalendar> required) {
        this.excluded = excluded;
        this.required = required;
    }

    boolean has(long epochDay) {
        for (int i = 0; i < required.size(); i++) {
            DayCalendar calendar = required.get(i);
            if (!calendar.isMissing() && !calendar.contains(epochDay)) {
                return false;
            }
        }
        for (int i = 0; i < excluded.size(); i++) {
            if (excluded.get(i).contains(epochDay)) {
                return false;
            }
        }
        return true;
    }

    /** {@return the working day on which a day's times are owed: itself if it is one, or NONE if they are not owed} */
    long target(long epochDay, IfDayOff ifDayOff) {
        if (has(epochDay)) {
            return epochDay;
        }
        return switch (ifDayOff) {
            case SKIP -> LocalTimes.NONE;
            case NEXT -> atOrAfter(epochDay);
            case PREVIOUS -> atOrBefore(epochDay);
        };
    }

    /** {@return the first working day at or after a day, or NONE if there is none within reach} */
    long atOrAfter(long epochDay) {
        for (long day = epochDay; day <= epochDay + FARTHEST; day++) {
            if (has(day)) {
                return day;
            }
        }
        return LocalTimes.NONE;
    }

    /** {@return the last working day at or before a day, or NONE if there is none within reach} */
    long atOrBefore(long epochDay) {
        for (long day = epochDay; day >= epochDay - FARTHEST; day--) {
            if (has(day)) {
                return day;
            }
        }
        return LocalTimes.NONE;
    }
}
