package dev.brume.schedule;

import java.util.ArrayList;
import java.util.List;

/** Puts a cron pattern into one English sentence. */
final class CronWords {
    private static final int MOST_TIMES = 6;
    private static final String[] WEEKDAYS = {
        "Sunday", "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday"
    };
    private static final String[] MONTHS = {
        "January",
        "February",
        "March",
        "April",
        "May",
        "June",
        "July",
        "August",
        "September",
        "October",
        "November",
        "December"
    };
    private static final String[] ORDINALS = {"first", "second", "third", "fourth", "fifth"};

    private final CronPattern pattern;

    private CronWords(CronPattern pattern) {
        this.pattern = pattern;
    }

    static String of(CronPattern pattern) {
        CronWords words = new CronWords(pattern);
        return words.times() + words.days() + words.months();
    }

    // Times of day.

    private String times() {
        CronFieldSet second = pattern.set(CronField.SECOND);
        CronFieldSet minute = pattern.set(CronField.MINUTE);
        CronFieldSet hour = pattern.set(CronField.HOUR);
        if (second.count() * minute.count() * hour.count() <= MOST_TIMES) {
            return "At " + listedTimes(second, minute, hour);
        }
        if (second.count() == 1) {
            return perMinute(minute, hour) + (second.first() == 0 ? "" : ", at second " + second.first());
        }
        String within = minute.count() == 60 ? "" : " during " + units("minute", minute);
        return perSecond(second) + within + hours(hour);
    }

    private static String listedTimes(CronFieldSet second, CronFieldSet minute, CronFieldSet hour) {
        List<String> times = new ArrayList<>();
        boolean exact = second.count() > 1 || second.first() != 0;
        for (int h : values(hour)) {
            for (int m : values(minute)) {
                for (int s : values(second)) {
                    times.add(two(h) + ":" + two(m) + (exact ? ":" + two(s) : ""));
                }
            }
        }
        return Words.list(times);
    }

    private static String perSecond(CronFieldSet second) {
        int step = evenStep(second, 60);
        return step == 1 ? "Every second" : step > 0 ? "Every " + step + " seconds" : "At " + units("second", second);
    }

    private static String perMinute(CronFieldSet minute, CronFieldSet hour) {
        int step = evenStep(minute, 60);
        if (minute.count() == 1) {
            String past = minute.first() == 0 ? "" : " at " + minute.first() + " minutes past";
            int hourStep = evenStep(hour, 24);
            if (hourStep > 0) {
                return (hourStep == 1 ? "Every hour" : "Every " + hourStep + " hours") + past;
            }
            return minute.first() == 0
                    ? "On the hour" + hours(hour)
                    : minute.first() + " minutes past the hour" + hours(hour);
        }
        String often = step == 1
                ? "Every minute"
                : step > 0 ? "Every " + step + " minutes" : "At " + units("minute", minute) + " past the hour";
        return often + hours(hour);
    }

    private static String hours(CronFieldSet hour) {
        if (hour.count() == 24) {
            return "";
        }
        if (isRun(hour) && hour.count() > 1) {
            return " from " + two(hour.first()) + ":00 to " + two(hour.last()) + ":59";
        }
        List<String> each = new ArrayList<>();
        values(hour).forEach(h -> each.add(two(h) + ":00"));
        return (hour.count() == 1 ? " in the hour from " : " in the hours from ") + Words.list(each);
    }

    private static String units(String unit, CronFieldSet set) {
        List<String> each = new ArrayList<>();
        values(set).forEach(value -> each.add(Integer.toString(value)));
        return unit + (each.size() == 1 ? " " : "s ") + Words.list(each);
    }

    /** The step of a set that starts at the field's beginning and divides it evenly, or 0. */
    private static int evenStep(CronFieldSet set, int size) {
        int count = set.count();
        if (set.first() != 0 || size % count != 0) {
            return 0;
        }
        int step = size / count;
        for (int value = 0; value < size; value += step) {
            if (!set.has(value)) {
                return 0;
            }
        }
        return step;
    }

    // Days.

    private String days() {
        CronFieldSet byMonth = pattern.set(CronField.DAY_OF_MONTH);
        CronFieldSet byWeek = pattern.set(CronField.DAY_OF_WEEK);
        boolean timesOnly = times().startsWith("At ");
        if (!byMonth.restricted() && !byWeek.restricted()) {
            return timesOnly ? " every day" : "";
        }
        if (!byWeek.restricted()) {
            return " on " + daysOfMonth(byMonth);
        }
        if (!byMonth.restricted()) {
            return " on " + weekdays(byWeek);
        }
        return pattern.eitherDayFieldDecides()
                ? " on " + daysOfMonth(byMonth) + " and also on " + weekdays(byWeek) + " (either is enough)"
                : " on " + daysOfMonth(byMonth) + ", but only if it is one of: " + weekdays(byWeek);
    }

    private static String daysOfMonth(CronFieldSet set) {
        List<String> parts = new ArrayList<>();
        if (set.count() > 0) {
            parts.add(monthDayNumbers(set));
        }
        values(new CronFieldSet("", set.fromLast(), 0, 0, true))
                .forEach(back -> parts.add(
                        back == 0
                                ? "the last day of the month"
                                : back + (back == 1 ? " day" : " days") + " before the last day of the month"));
        values(new CronFieldSet("", set.nearest(), 0, 0, true))
                .forEach(day -> parts.add(
                        day == 0
                                ? "the last weekday (Monday to Friday) of the month"
                                : "the weekday (Monday to Friday) nearest day " + day + " of the month"));
        return Words.list(parts);
    }

    private static String monthDayNumbers(CronFieldSet set) {
        if (set.count() == 31) {
            return "every day of the month";
        }
        if (isRun(set) && set.count() > 2) {
            return "days " + set.first() + " to " + set.last() + " of the month";
        }
        return units("day", set) + " of the month";
    }

    private static String weekdays(CronFieldSet set) {
        List<String> parts = new ArrayList<>();
        if (set.bits() == 0b0111110) {
            parts.add("weekdays (Monday to Friday)");
        } else if (set.bits() == 0b1000001) {
            parts.add("Saturdays and Sundays");
        } else if (set.count() == 7) {
            parts.add("every day of the week");
        } else {
            values(set).forEach(day -> parts.add(WEEKDAYS[day] + "s"));
        }
        values(new CronFieldSet("", set.fromLast(), 0, 0, true))
                .forEach(day -> parts.add("the last " + WEEKDAYS[day] + " of the month"));
        values(new CronFieldSet("", set.nearest(), 0, 0, true))
                .forEach(code -> parts.add("the " + ORDINALS[code / 7] + " " + WEEKDAYS[code % 7] + " of the month"));
        return Words.list(parts);
    }

    private String months() {
        CronFieldSet month = pattern.set(CronField.MONTH);
        if (month.count() == 12) {
            return "";
        }
        if (isRun(month) && month.count() > 2) {
            return " from " + MONTHS[month.first() - 1] + " to " + MONTHS[month.last() - 1];
        }
        List<String> names = new ArrayList<>();
        values(month).forEach(m -> names.add(MONTHS[m - 1]));
        return " in " + Words.list(names);
    }

    // Sets.

    private static List<Integer> values(CronFieldSet set) {
        List<Integer> values = new ArrayList<>();
        for (int value = set.atOrAfter(0); value >= 0; value = set.atOrAfter(value + 1)) {
            values.add(value);
        }
        return values;
    }

    private static boolean isRun(CronFieldSet set) {
        return set.last() - set.first() + 1 == set.count();
    }

    private static String two(int number) {
        return number < 10 ? "0" + number : Integer.toString(number);
    }
}
