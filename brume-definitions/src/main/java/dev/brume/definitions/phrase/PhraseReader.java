package dev.brume.definitions.phrase;

import dev.brume.definitions.phrase.Phrase.Reading;
import dev.brume.schedule.AfterEndSchedule;
import dev.brume.schedule.CronFieldReading;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.DailyWindow;
import dev.brume.schedule.EverySchedule;
import dev.brume.schedule.OnceSchedule;
import dev.brume.schedule.RuleSchedule;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.TermedSchedule;
import dev.brume.schedule.Terms;
import dev.brume.schedule.WallClockSchedule;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.Month;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.regex.Matcher;
import java.util.stream.Collectors;

/** Finds the phrase that schedules are. Confined to one thread. */
final class PhraseReader {
    private static final java.util.regex.Pattern WEEKS = java.util.regex.Pattern.compile(
            "DTSTART:(\\d{8})T(\\d{2})(\\d{2})00\\s+RRULE:([A-Z0-9=;,]+)", java.util.regex.Pattern.CASE_INSENSITIVE);
    private static final java.util.regex.Pattern WEEKDAY_OF_MONTH =
            java.util.regex.Pattern.compile("([0-7]|[A-Z]{3})(L|#[1-4])");
    private static final Set<String> WEEKLY_PARTS = Set.of("FREQ", "INTERVAL", "BYDAY", "BYHOUR", "BYMINUTE", "WKST");
    private static final List<String> SHORT_DAYS = List.of("SUN", "MON", "TUE", "WED", "THU", "FRI", "SAT");

    /** Why schedules are no phrase. */
    private static final class Unsaid extends Exception {
        private static final long serialVersionUID = 1L;

        Unsaid(String why) {
            super(why);
        }
    }

    /** What one schedule says. */
    private record Part(Pattern pattern, DaysOff daysOff, Clocks clocks) {}

    private PhraseReader() {}

    static Reading read(List<Schedule> schedules) {
        if (schedules.isEmpty()) {
            return Reading.none("there is no schedule");
        }
        try {
            List<Part> parts = new ArrayList<>();
            for (Schedule schedule : schedules) {
                parts.add(part(schedule));
            }
            if (schedules.stream().map(Schedule::zone).distinct().count() > 1) {
                throw new Unsaid("its schedules go by the clocks of several zones");
            }
            Part part = together(parts);
            return Reading.of(new Phrase(part.pattern, schedules.get(0).zone(), part.daysOff, part.clocks));
        } catch (Unsaid e) {
            return Reading.none(String.valueOf(e.getMessage()));
        } catch (IllegalArgumentException e) {
            return Reading.none("the parts do not have it: " + e.getMessage());
        }
    }

    /** Several are one phrase if they differ in the times of the day only. */
    private static Part together(List<Part> parts) throws Unsaid {
        Part first = parts.get(0);
        if (parts.size() == 1) {
            return first;
        }
        TreeSet<LocalTime> times = new TreeSet<>();
        OnDays days = null;
        for (Part part : parts) {
            OnDays own = part.pattern instanceof Pattern.AtTimes at
                    ? at.days()
                    : part.pattern instanceof Pattern.ByTheClock clock && Regular.isByHours(clock)
                            ? clock.days()
                            : null;
            if (own == null
                    || days != null && !own.equals(days)
                    || !part.daysOff.equals(first.daysOff)
                    || !part.clocks.equals(first.clocks)) {
                throw new Unsaid("it has " + parts.size() + " schedules that differ in more than the times of the day");
            }
            days = own;
            if (part.pattern instanceof Pattern.AtTimes at) {
                times.addAll(at.times());
            } else if (part.pattern instanceof Pattern.ByTheClock clock) {
                times.addAll(Regular.times(clock));
            }
        }
        if (days == null) {
            throw new IllegalStateException("there was no part");
        }
        return new Part(Pattern.atTimes(days, times), first.daysOff, first.clocks);
    }

    private static Part part(Schedule schedule) throws Unsaid {
        Terms terms = schedule instanceof TermedSchedule termed ? termed.terms() : Terms.NONE;
        if (!terms.onlyOn().isEmpty()) {
            throw new Unsaid("it is owed on the days of a calendar only (onlyOn)");
        }
        if (terms.from().isPresent()
                || terms.until().isPresent()
                || terms.atMost().isPresent()) {
            throw new Unsaid("it has a beginning, an end or a limit (from, until, atMost)");
        }
        DaysOff off = new DaysOff(
                terms.notOn().stream().map(calendar -> calendar.name()).toList(), terms.ifDayOff());
        Schedule rule = schedule.rule();
        Clocks clocks = rule instanceof WallClockSchedule local
                ? new Clocks(local.statedGap(), local.statedFold())
                : Clocks.USUAL;
        return new Part(pattern(rule, terms.window()), off, clocks);
    }

    private static Pattern pattern(Schedule rule, Optional<DailyWindow> window) throws Unsaid {
        if (rule instanceof CronSchedule cron) {
            return cron(cron, window);
        }
        if (rule instanceof EverySchedule every) {
            if (!every.anchor().equals(Instant.EPOCH)) {
                throw new Unsaid("its interval is counted from a time of its own (anchor)");
            }
            return new Pattern.FixedInterval(every.interval(), window);
        }
        if (window.isPresent()) {
            throw new Unsaid("it has a daily window beside its rule");
        }
        if (rule instanceof RuleSchedule weeks) {
            return weeks(weeks);
        }
        if (rule instanceof OnceSchedule once && once.occurrence().isPresent()) {
            boolean plain =
                    once.toString().equals(once.occurrence().get().nominal().toString());
            if (plain) {
                return new Pattern.Once(once.occurrence().get().nominal());
            }
            throw new Unsaid("its one time is an instant, not a time by the clocks of its zone");
        }
        throw new Unsaid(
                rule instanceof AfterEndSchedule
                        ? "it goes by when its own runs end (afterEnd)"
                        : "its one time counts from when it is defined");
    }

    // Expressions.

    private static Pattern cron(CronSchedule cron, Optional<DailyWindow> window) throws Unsaid {
        Map<String, CronFieldReading> fields =
                cron.fields().stream().collect(Collectors.toMap(CronFieldReading::name, field -> field));
        if (!field(fields, "second").values().equals(List.of(0))) {
            throw new Unsaid("'" + cron + "' goes to the second");
        }
        OnDays days = days(cron, field(fields, "day-of-month"), field(fields, "month"), field(fields, "day-of-week"));
        CronFieldReading hour = field(fields, "hour");
        List<Integer> minutes = field(fields, "minute").values();
        List<Integer> hours = hour.values();
        boolean goesOn = hour.every() || hour.text().startsWith("*");
        if (goesOn) {
            int interval = hours.size() == 24 ? interval(minutes, 60) : 60 * interval(hours, 24);
            boolean onTheHour = hours.size() == 24 || minutes.equals(List.of(0));
            if (!onTheHour || !Pattern.MINUTES.contains(interval)) {
                throw new Unsaid("'" + cron + "' does not come at even intervals from midnight on");
            }
            Pattern.ByTheClock pattern = new Pattern.ByTheClock(days, interval, window);
            if (Regular.isByHours(pattern)) {
                throw new Unsaid(
                        "its window begins and ends with the hour, which the parts say by the hours of the expression");
            }
            return pattern;
        }
        if (window.isPresent()) {
            throw new Unsaid("it has a daily window beside its times of the day");
        }
        TreeSet<LocalTime> times = new TreeSet<>();
        hours.forEach(each -> minutes.forEach(minute -> times.add(LocalTime.of(each, minute))));
        return Pattern.atTimes(days, times);
    }

    private static CronFieldReading field(Map<String, CronFieldReading> fields, String name) {
        CronFieldReading field = fields.get(name);
        if (field == null) {
            throw new IllegalStateException("an expression has a field " + name);
        }
        return field;
    }

    /** {@return the step of values that begin at 0 and are evenly spread, 0 if they are not} */
    private static int interval(List<Integer> values, int size) {
        int step = values.isEmpty() || size % values.size() != 0 ? 0 : size / values.size();
        for (int i = 0; i < values.size() && step > 0; i++) {
            if (values.get(i) != i * step) {
                return 0;
            }
        }
        return step;
    }

    private static OnDays days(
            CronSchedule cron, CronFieldReading dayOfMonth, CronFieldReading month, CronFieldReading dayOfWeek)
            throws Unsaid {
        Set<Month> months = month.values().stream().map(Month::of).collect(Collectors.toSet());
        if (dayOfMonth.restricted() && dayOfWeek.restricted()) {
            throw new Unsaid("'" + cron + "' restricts both the day of the month and the day of the week");
        }
        if (dayOfMonth.restricted()) {
            return daysOfMonth(cron, dayOfMonth, months);
        }
        Matcher ofMonth = WEEKDAY_OF_MONTH.matcher(dayOfWeek.text());
        if (ofMonth.matches()) {
            int which = ofMonth.group(2).equals("L")
                    ? OnDays.WeekdayOfMonth.LAST
                    : Integer.parseInt(ofMonth.group(2).substring(1));
            return new OnDays.WeekdayOfMonth(which, weekday(ofMonth.group(1)), months);
        }
        if (!dayOfWeek.words().isEmpty()) {
            throw new Unsaid("'" + cron + "' names several weekdays of a month");
        }
        if (months.size() == 12) {
            return OnDays.weekdays(dayOfWeek.values().stream()
                    .map(number -> DayOfWeek.of(number == 0 ? 7 : number))
                    .toList());
        }
        if (dayOfWeek.restricted()) {
            throw new Unsaid("'" + cron + "' names weekdays of some months only");
        }
        throw new Unsaid("'" + cron + "' comes on each day of some months");
    }

    private static DayOfWeek weekday(String text) {
        int number = SHORT_DAYS.indexOf(text) >= 0 ? SHORT_DAYS.indexOf(text) : Integer.parseInt(text);
        return DayOfWeek.of(number == 0 ? 7 : number);
    }

    private static OnDays daysOfMonth(CronSchedule cron, CronFieldReading field, Set<Month> months) throws Unsaid {
        if (field.text().equals("1W") || field.text().equals("LW")) {
            return new OnDays.WorkingDayOfMonth(field.text().equals("LW"), months);
        }
        TreeSet<Integer> days = new TreeSet<>(field.values());
        if (!field.words().isEmpty()) {
            List<String> special = List.of(field.text().split(",")).stream()
                    .filter(text -> !text.matches("[0-9*?/-]+"))
                    .toList();
            if (special.stream().anyMatch(text -> !text.equals("L"))) {
                throw new Unsaid("'" + cron
                        + "' counts days from the end of the month, or names the working day nearest to one");
            }
            days.add(OnDays.LAST_DAY);
        }
        if (days.headSet(OnDays.LAST_DAY).size() == 31) {
            if (months.size() == 12) {
                return new OnDays.EachDay();
            }
            throw new Unsaid("'" + cron + "' comes on each day of some months");
        }
        return new OnDays.DaysOfMonth(days, months);
    }

    // Rules.

    private static Pattern weeks(RuleSchedule rule) throws Unsaid {
        Unsaid unsaid = new Unsaid("the rule '" + rule + "' has more in it than weeks, weekdays and times");
        Matcher matcher = WEEKS.matcher(rule.text());
        if (!matcher.matches()) {
            throw unsaid;
        }
        Map<String, String> parts = new HashMap<>();
        for (String part : matcher.group(4).toUpperCase(Locale.ROOT).split(";")) {
            String[] pair = part.split("=", 2);
            parts.put(pair[0], pair.length > 1 ? pair[1] : "");
        }
        Set<String> others = new HashSet<>(parts.keySet());
        others.removeAll(WEEKLY_PARTS);
        if (!others.isEmpty()
                || !"WEEKLY".equals(parts.get("FREQ"))
                || !parts.getOrDefault("WKST", "MO").equals("MO")) {
            throw unsaid;
        }
        LocalDate first = LocalDate.parse(matcher.group(1), DateTimeFormatter.BASIC_ISO_DATE);
        LocalTime start = LocalTime.of(Integer.parseInt(matcher.group(2)), Integer.parseInt(matcher.group(3)));
        Set<DayOfWeek> days = new HashSet<>();
        for (String day : parts.getOrDefault("BYDAY", "").split(",")) {
            days.add(named(day).orElseThrow(() -> unsaid));
        }
        TreeSet<LocalTime> times = new TreeSet<>();
        for (String hour :
                parts.getOrDefault("BYHOUR", String.valueOf(start.getHour())).split(",")) {
            for (String minute : parts.getOrDefault("BYMINUTE", String.valueOf(start.getMinute()))
                    .split(",")) {
                times.add(LocalTime.of(Integer.parseInt(hour), Integer.parseInt(minute)));
            }
        }
        if (!times.first().equals(start)) {
            throw unsaid;
        }
        int interval = Integer.parseInt(parts.getOrDefault("INTERVAL", "1"));
        if (interval == 1) {
            throw new Unsaid("its rule begins on a day of its own (DTSTART)");
        }
        return Pattern.atTimes(new OnDays.EveryFewWeeks(interval, days, first), times);
    }

    private static Optional<DayOfWeek> named(String two) {
        for (DayOfWeek day : DayOfWeek.values()) {
            if (day.name().startsWith(two) && two.length() == 2) {
                return Optional.of(day);
            }
        }
        return Optional.empty();
    }
}
