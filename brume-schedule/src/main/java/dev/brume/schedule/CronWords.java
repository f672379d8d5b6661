package dev.brume.schedule;

import java.time.DayOfWeek;
import java.time.Month;
import java.time.ZoneId;
import java.time.format.TextStyle;
import java.time.zone.ZoneOffsetTransition;
import java.time.zone.ZoneOffsetTransitionRule;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;

/** Puts a cron expression into one sentence. */
final class CronWords {
    private static final int MOST_TIMES = 6;

    /** The years whose clock changes decide whether a rule meets any; they hold every weekday of every date. */
    private static final int FIRST_YEAR = 2000;

    private static final int LAST_YEAR = 2040;

    private final CronPattern pattern;
    private final Words words;

    private CronWords(CronPattern pattern, Words words) {
        this.pattern = pattern;
        this.words = words;
    }

    static String of(CronSchedule cron, CronPattern pattern, Words words) {
        CronWords own = new CronWords(pattern, words);
        String sentence = words.say("sentence", own.months(own.days(own.times())), words.zone(cron.zone()));
        return own.clocks(sentence, cron);
    }

    /** What a day field says of days that depend on the month; empty if it says nothing of the kind. */
    static String specials(CronField field, CronPattern pattern, Words words) {
        CronFieldSet set = pattern.set(field);
        if (!set.hasSpecials()) {
            return "";
        }
        CronWords own = new CronWords(pattern, words);
        return field == CronField.DAY_OF_MONTH ? own.daysOfMonth(set) : own.weekdays(set);
    }

    // Times of day.

    private String times() {
        CronFieldSet second = pattern.set(CronField.SECOND);
        CronFieldSet minute = pattern.set(CronField.MINUTE);
        CronFieldSet hour = pattern.set(CronField.HOUR);
        if (listsTimes()) {
            return words.say("time.at", listedTimes(second, minute, hour));
        }
        if (second.count() == 1) {
            String often = perMinute(minute, hour);
            return second.first() == 0 ? often : words.say("time.atSecond", often, second.first());
        }
        String often = perSecond(second);
        if (minute.count() < 60) {
            return hours(words.say("time.during", often, units("minute", minute)), hour);
        }
        return hours(evenStep(second, 60) == 0 ? words.say("time.ofEveryMinute", often) : often, hour);
    }

    private boolean listsTimes() {
        return pattern.timesPerDay() <= MOST_TIMES;
    }

    private String listedTimes(CronFieldSet second, CronFieldSet minute, CronFieldSet hour) {
        List<String> times = new ArrayList<>();
        boolean exact = second.count() > 1 || second.first() != 0;
        for (int h : values(hour)) {
            for (int m : values(minute)) {
                for (int s : values(second)) {
                    times.add(two(h) + ":" + two(m) + (exact ? ":" + two(s) : ""));
                }
            }
        }
        return words.list(times);
    }

    private String perSecond(CronFieldSet second) {
        int step = evenStep(second, 60);
        if (step == 0) {
            return words.say("time.atSeconds", units("second", second));
        }
        return step == 1 ? words.say("time.everySecond") : words.say("time.everySeconds", step);
    }

    private String perMinute(CronFieldSet minute, CronFieldSet hour) {
        if (minute.count() == 1) {
            int hourStep = evenStep(hour, 24);
            if (hourStep > 0) {
                String often = hourStep == 1 ? words.say("time.everyHour") : words.say("time.everyHours", hourStep);
                return words.say("time.atMinute", often, two(minute.first()));
            }
            return hours(words.say("time.atMinute", words.say("time.everyHour"), two(minute.first())), hour);
        }
        int step = evenStep(minute, 60);
        if (step == 0) {
            String often = isRun(minute) && minute.count() > 2
                    ? words.say("time.minuteRange", two(minute.first()), two((minute.last() + 1) % 60))
                    : words.say(
                            "time.atMinutes",
                            words.list(values(minute).stream()
                                    .map(value -> ":" + two(value))
                                    .toList()));
            return hours(often, hour);
        }
        return hours(step == 1 ? words.say("time.everyMinute") : words.say("time.everyMinutes", step), hour);
    }

    private String hours(String often, CronFieldSet hour) {
        if (hour.count() == 24) {
            return often;
        }
        if (isRun(hour) && hour.count() > 1) {
            return words.say("time.range", often, two(hour.first()), two(hour.last() + 1));
        }
        List<String> each = new ArrayList<>();
        values(hour).forEach(h -> each.add(two(h) + ":00"));
        return words.say(hour.count() == 1 ? "time.inHour" : "time.inHours", often, words.list(each));
    }

    private String units(String unit, CronFieldSet set) {
        List<String> each = new ArrayList<>();
        values(set).forEach(value -> each.add(Integer.toString(value)));
        return words.say(unit + (each.size() == 1 ? ".one" : ".many"), words.list(each));
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

    private String days(String times) {
        CronFieldSet byMonth = pattern.set(CronField.DAY_OF_MONTH);
        CronFieldSet byWeek = pattern.set(CronField.DAY_OF_WEEK);
        if (!byMonth.restricted() && !byWeek.restricted()) {
            return listsTimes() ? words.say("cron.everyDay", times) : times;
        }
        if (!byWeek.restricted()) {
            return words.say("cron.on", times, daysOfMonth(byMonth));
        }
        if (!byMonth.restricted()) {
            return words.say("cron.on", times, weekdays(byWeek));
        }
        String key = pattern.eitherDayFieldDecides() ? "days.either" : "days.both";
        return words.say("cron.on", times, words.say(key, daysOfMonth(byMonth), weekdays(byWeek)));
    }

    private String daysOfMonth(CronFieldSet set) {
        List<String> parts = new ArrayList<>();
        if (set.count() > 0) {
            parts.add(monthDayNumbers(set));
        }
        values(new CronFieldSet("", set.fromLast(), 0, 0, true))
                .forEach(back -> parts.add(back == 0 ? words.say("day.last") : words.say("day.beforeLast", back)));
        values(new CronFieldSet("", set.nearest(), 0, 0, true))
                .forEach(
                        day -> parts.add(day == 0 ? words.say("day.lastWorkday") : words.say("day.nearest", nth(day))));
        return words.list(parts);
    }

    private String monthDayNumbers(CronFieldSet set) {
        if (set.count() == 31) {
            return words.say("day.all");
        }
        if (isRun(set) && set.count() > 2) {
            return words.say("day.range", nth(set.first()), nth(set.last()));
        }
        return words.say(
                "day.some", words.list(values(set).stream().map(this::nth).toList()));
    }

    private String nth(int day) {
        return words.say("day.nth", day);
    }

    private String weekdays(CronFieldSet set) {
        List<String> parts = new ArrayList<>();
        if (set.bits() == 0b0111110) {
            parts.add(words.say("week.workdays"));
        } else if (set.bits() == 0b1000001) {
            parts.add(words.say("week.weekend"));
        } else if (set.count() == 7) {
            parts.add(words.say("week.all"));
        } else {
            values(set).stream()
                    .sorted(Comparator.comparing(day -> (day + 6) % 7))
                    .forEach(day -> parts.add(words.say("week.each", weekday(day))));
        }
        values(new CronFieldSet("", set.fromLast(), 0, 0, true))
                .forEach(day -> parts.add(words.say("week.last", weekday(day))));
        values(new CronFieldSet("", set.nearest(), 0, 0, true))
                .forEach(code ->
                        parts.add(words.say("week.nth", words.say("ordinal." + (code / 7 + 1)), weekday(code % 7))));
        return words.list(parts);
    }

    private String weekday(int day) {
        return DayOfWeek.of(day == 0 ? 7 : day).getDisplayName(TextStyle.FULL_STANDALONE, words.locale());
    }

    private String months(String times) {
        CronFieldSet month = pattern.set(CronField.MONTH);
        if (month.count() == 12) {
            return times;
        }
        if (isRun(month) && month.count() > 2) {
            return words.say("cron.from", times, month(month.first()), month(month.last()));
        }
        List<String> names = new ArrayList<>();
        values(month).forEach(m -> names.add(month(m)));
        return words.say("cron.in", times, words.list(names));
    }

    private String month(int month) {
        return Month.of(month).getDisplayName(TextStyle.FULL_STANDALONE, words.locale());
    }

    // Clock changes.

    /** Adds the policies, where the rule meets a clock change and does not simply go on through it. */
    private String clocks(String sentence, CronSchedule cron) {
        boolean goesOn =
                pattern.set(CronField.HOUR).count() == 24 && cron.gap() == Gap.SKIP && cron.fold() == Fold.BOTH;
        if (goesOn) {
            return sentence;
        }
        boolean gap = meets(cron.zone(), true);
        boolean fold = meets(cron.zone(), false);
        String gapKey = "clocks.gap." + (cron.gap() == Gap.AFTER ? "after" : "skip");
        String foldKey = cron.fold().name().toLowerCase(Locale.ROOT);
        if (gap && fold) {
            return words.say("clocks.both", sentence, words.say(gapKey), words.say("clocks.fold." + foldKey));
        }
        if (gap) {
            return words.say("clocks.one", sentence, words.say(gapKey));
        }
        return fold ? words.say("clocks.one", sentence, words.say("clocks.fold.only." + foldKey)) : sentence;
    }

    private boolean meets(ZoneId zone, boolean gap) {
        for (ZoneOffsetTransitionRule rule : zone.getRules().getTransitionRules()) {
            for (int year = FIRST_YEAR; year <= LAST_YEAR; year++) {
                ZoneOffsetTransition change = rule.createTransition(year);
                long before = change.toEpochSecond() + change.getOffsetBefore().getTotalSeconds();
                long after = change.toEpochSecond() + change.getOffsetAfter().getTotalSeconds();
                long hit = pattern.next(Math.min(before, after));
                if (change.isGap() == gap && hit != LocalTimes.NONE && hit < Math.max(before, after)) {
                    return true;
                }
            }
        }
        return false;
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
