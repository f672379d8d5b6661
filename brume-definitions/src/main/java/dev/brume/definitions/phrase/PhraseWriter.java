package dev.brume.definitions.phrase;

import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.DailyWindow;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.EverySchedule;
import dev.brume.schedule.OnceSchedule;
import dev.brume.schedule.RuleSchedule;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.Terms;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.Month;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.SortedSet;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.IntFunction;
import java.util.stream.Collectors;

/** Makes the schedules of a phrase. Confined to one thread. */
final class PhraseWriter {
    private static final DateTimeFormatter START = DateTimeFormatter.ofPattern("uuuuMMdd'T'HHmm'00'", Locale.ROOT);

    private final Phrase phrase;

    PhraseWriter(Phrase phrase) {
        this.phrase = phrase;
    }

    List<Schedule> schedules() {
        return rules().stream().map(this::underTerms).toList();
    }

    private List<Schedule> rules() {
        Pattern pattern = phrase.pattern();
        if (pattern instanceof Pattern.AtTimes at) {
            return at.days() instanceof OnDays.EveryFewWeeks weeks
                    ? groups(at.times()).stream()
                            .map(group -> rule(weeks, group))
                            .toList()
                    : groups(at.times()).stream()
                            .map(group -> cron(group.fields(), at.days()))
                            .toList();
        }
        if (pattern instanceof Pattern.ByTheClock clock) {
            return List.of(cron(fields(clock), clock.days()));
        }
        if (pattern instanceof Pattern.FixedInterval fixed) {
            return List.of(EverySchedule.of(fixed.interval()).withZone(phrase.zone()));
        }
        return pattern instanceof Pattern.Once once ? List.of(OnceSchedule.at(once.at(), phrase.zone())) : List.of();
    }

    private Schedule underTerms(Schedule rule) {
        List<DayCalendar> calendars =
                phrase.daysOff().calendars().stream().map(DayCalendar::missing).toList();
        Terms terms = Terms.NONE.withDays(calendars, List.of(), phrase.daysOff().move());
        return rule.with(window().map(terms::within).orElse(terms));
    }

    /** A part of the day that begins and ends with the hour is in the expression itself. */
    private Optional<DailyWindow> window() {
        if (phrase.pattern() instanceof Pattern.ByTheClock clock) {
            return Regular.isByHours(clock) ? Optional.empty() : clock.window();
        }
        return phrase.pattern() instanceof Pattern.FixedInterval fixed ? fixed.window() : Optional.empty();
    }

    // Expressions.

    /** Times of the day that an expression can name at once: those minutes of those hours. */
    private record Group(SortedSet<Integer> minutes, SortedSet<Integer> hours) {
        String fields() {
            return list(minutes, String::valueOf) + " " + list(hours, String::valueOf);
        }

        LocalTime first() {
            return LocalTime.of(hours.first(), minutes.first());
        }
    }

    private static List<Group> groups(SortedSet<LocalTime> times) {
        Map<Integer, SortedSet<Integer>> hoursOf = new TreeMap<>();
        times.forEach(time -> hoursOf.computeIfAbsent(time.getMinute(), any -> new TreeSet<>())
                .add(time.getHour()));
        Map<SortedSet<Integer>, SortedSet<Integer>> minutesOf = new LinkedHashMap<>();
        hoursOf.forEach((minute, hours) ->
                minutesOf.computeIfAbsent(hours, any -> new TreeSet<>()).add(minute));
        List<Group> groups = new ArrayList<>();
        minutesOf.forEach((hours, minutes) -> groups.add(new Group(minutes, hours)));
        groups.sort(Comparator.comparing(Group::first));
        return groups;
    }

    private static String fields(Pattern.ByTheClock clock) {
        int minutes = clock.minutes();
        if (minutes > 60) {
            return "0 */" + minutes / 60;
        }
        String minute = minutes == 1 ? "*" : minutes == 60 ? "0" : "*/" + minutes;
        return minute + " " + (Regular.isByHours(clock) ? hours(clock.window().orElseThrow()) : "*");
    }

    private static String hours(DailyWindow part) {
        int from = part.from().getHour();
        int last = (part.until().getHour() + 23) % 24;
        return from == last ? String.valueOf(from) : from + "-" + last;
    }

    private Schedule cron(String times, OnDays days) {
        CronSchedule cron = CronSchedule.parse(times + " " + fields(days), phrase.zone());
        cron = phrase.clocks().gap().map(cron::withGap).orElse(cron);
        return phrase.clocks().fold().map(cron::withFold).orElse(cron);
    }

    private static String fields(OnDays days) {
        if (days instanceof OnDays.WorkingDays) {
            return "* * MON-FRI";
        }
        if (days instanceof OnDays.Weekdays some) {
            return "* * " + list(numbers(some.days()), number -> shortName(DayOfWeek.of(number)));
        }
        if (days instanceof OnDays.WeekdayOfMonth one) {
            return "* " + months(one.months())
                    + " "
                    + (one.which() == OnDays.WeekdayOfMonth.LAST
                            ? one.day().getValue() % 7 + "L"
                            : shortName(one.day()) + "#" + one.which());
        }
        if (days instanceof OnDays.WorkingDayOfMonth working) {
            return (working.last() ? "LW " : "1W ") + months(working.months()) + " *";
        }
        if (days instanceof OnDays.DaysOfMonth some) {
            return daysOfMonth(some.days()) + " " + months(some.months()) + " *";
        }
        return "* * *";
    }

    private static String daysOfMonth(SortedSet<Integer> days) {
        String plain = list(days.headSet(OnDays.LAST_DAY), String::valueOf);
        boolean last = days.contains(OnDays.LAST_DAY);
        return last ? plain.isEmpty() ? "L" : plain + ",L" : plain;
    }

    private static String months(Set<Month> months) {
        TreeSet<Integer> numbers = new TreeSet<>();
        months.forEach(month -> numbers.add(month.getValue()));
        return numbers.size() == 12
                ? "*"
                : list(numbers, number -> Month.of(number).name().substring(0, 3));
    }

    private static SortedSet<Integer> numbers(Iterable<DayOfWeek> days) {
        TreeSet<Integer> numbers = new TreeSet<>();
        days.forEach(day -> numbers.add(day.getValue()));
        return numbers;
    }

    private static String shortName(DayOfWeek day) {
        return day.name().substring(0, 3);
    }

    /** Three and more in a row are a range. */
    private static String list(SortedSet<Integer> numbers, IntFunction<String> name) {
        List<String> parts = new ArrayList<>();
        Integer from = null;
        for (int number : numbers) {
            if (from == null) {
                from = number;
            }
            if (!numbers.contains(number + 1)) {
                if (number - from >= 2) {
                    parts.add(name.apply(from) + "-" + name.apply(number));
                } else {
                    parts.add(name.apply(from));
                    if (number > from) {
                        parts.add(name.apply(number));
                    }
                }
                from = null;
            }
        }
        return String.join(",", parts);
    }

    // Rules.

    private Schedule rule(OnDays.EveryFewWeeks weeks, Group group) {
        String days =
                weeks.days().stream().map(day -> day.name().substring(0, 2)).collect(Collectors.joining(","));
        boolean single = group.minutes.size() * group.hours.size() == 1;
        String times = single ? "" : ";BYHOUR=" + joined(group.hours) + ";BYMINUTE=" + joined(group.minutes);
        RuleSchedule rule = RuleSchedule.parse(
                "DTSTART:" + start(weeks.first(), group.first()) + "\nRRULE:FREQ=WEEKLY;INTERVAL=" + weeks.weeks()
                        + ";BYDAY=" + days + times,
                phrase.zone());
        rule = phrase.clocks().gap().map(rule::withGap).orElse(rule);
        return phrase.clocks().fold().map(rule::withFold).orElse(rule);
    }

    private static String start(LocalDate date, LocalTime time) {
        return START.format(date.atTime(time));
    }

    private static String joined(SortedSet<Integer> numbers) {
        return numbers.stream().map(String::valueOf).collect(Collectors.joining(","));
    }
}
