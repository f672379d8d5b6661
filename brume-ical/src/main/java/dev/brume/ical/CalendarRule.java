package dev.brume.ical;

import dev.brume.schedule.CronFieldReading;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.Days;
import dev.brume.schedule.EverySchedule;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.RuleSchedule;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.ScheduleSyntaxException;
import dev.brume.schedule.WallClockSchedule;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.ZonedDateTime;
import java.time.format.DateTimeFormatter;
import java.time.zone.ZoneOffsetTransition;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import java.util.stream.Collectors;

/**
 * A schedule as a recurrence rule that any calendar understands.
 *
 * @param start the first time, in the zone of the rule
 * @param text the value of RRULE (RFC 5545, section 3.3.10)
 * @since 0.1.0
 */
public record CalendarRule(ZonedDateTime start, String text) {
    private static final DateTimeFormatter LOCAL = DateTimeFormatter.ofPattern("uuuuMMdd'T'HHmmss");
    private static final DateTimeFormatter UTC = DateTimeFormatter.ofPattern("uuuuMMdd'T'HHmmss'Z'");
    private static final String[] WEEKDAYS = {"SU", "MO", "TU", "WE", "TH", "FR", "SA"};

    /** A rule is believed when it names the same times as the schedule for so long. */
    private static final Duration COMPARED = Duration.ofDays(3660);

    private static final int MOST_COMPARED = 5000;

    /**
     * Says a schedule as a rule, where a rule means the same: to every program, also on days on which clocks change.
     *
     * @param from the rule begins with the first occurrence at or after it
     * @return empty if there is no such rule; its occurrences are to be written one by one
     */
    public static Optional<CalendarRule> of(Schedule schedule, Instant from) {
        Optional<Occurrence> first = schedule.next(from.minusNanos(1));
        if (first.isEmpty()) {
            return Optional.empty();
        }
        ZoneId zone = schedule instanceof EverySchedule ? ZoneOffset.UTC : schedule.zone();
        ZonedDateTime start = first.get().instant().atZone(zone);
        return candidate(schedule)
                .map(text -> new CalendarRule(start, text))
                .filter(rule -> rule.isAsPlainAs(schedule) && rule.names(schedule));
    }

    /** {@return the same rule, which ends before an instant} */
    public CalendarRule until(Instant end) {
        return new CalendarRule(
                start, text + ";UNTIL=" + UTC.format(end.minusSeconds(1).atZone(ZoneOffset.UTC)));
    }

    /** {@return the same rule, which ends after so many times} */
    public CalendarRule count(int times) {
        return new CalendarRule(start, text + ";COUNT=" + times);
    }

    // What could be said so.

    private static Optional<String> candidate(Schedule schedule) {
        if (schedule instanceof CronSchedule cron) {
            return cron(cron);
        }
        if (schedule instanceof EverySchedule every) {
            return Optional.of(every(every.interval()));
        }
        return schedule instanceof RuleSchedule rule ? only(rule) : Optional.empty();
    }

    /** A rule that consists of nothing but a start and an RRULE that does not count. */
    private static Optional<String> only(RuleSchedule rule) {
        List<String> lines = rule.text()
                .lines()
                .flatMap(line -> List.of(line.split("\\s+(?=RRULE|EXDATE|RDATE|EXRULE)")).stream())
                .toList();
        List<String> rules = lines.stream()
                .filter(line -> line.startsWith("RRULE:"))
                .map(line -> line.substring("RRULE:".length()).strip())
                .toList();
        boolean plain = lines.size() == 2 && rules.size() == 1;
        return plain && !rules.get(0).contains("COUNT=") && !rules.get(0).contains("UNTIL=")
                ? Optional.of(rules.get(0))
                : Optional.empty();
    }

    private static String every(Duration interval) {
        long seconds = interval.toSeconds();
        long[] units = {86_400, 3600, 60, 1};
        String[] names = {"DAILY", "HOURLY", "MINUTELY", "SECONDLY"};
        int unit = 0;
        while (seconds % units[unit] != 0) {
            unit++;
        }
        return "FREQ=" + names[unit] + ";INTERVAL=" + seconds / units[unit];
    }

    private static Optional<String> cron(CronSchedule cron) {
        List<CronFieldReading> fields = cron.fields();
        CronFieldReading dayOfMonth = fields.get(3);
        CronFieldReading dayOfWeek = fields.get(5);
        boolean both = dayOfMonth.restricted() && dayOfWeek.restricted();
        boolean special = !dayOfMonth.words().isEmpty() || !dayOfWeek.words().isEmpty();
        if (special || both && cron.days() == Days.EITHER) {
            return Optional.empty();
        }
        List<String> parts = new ArrayList<>();
        parts.add("FREQ=" + (dayOfMonth.restricted() ? "MONTHLY" : dayOfWeek.restricted() ? "WEEKLY" : "DAILY"));
        part(parts, "BYMONTH", fields.get(4), String::valueOf);
        part(parts, "BYMONTHDAY", dayOfMonth, String::valueOf);
        part(parts, "BYDAY", dayOfWeek, day -> WEEKDAYS[day]);
        parts.add("BYHOUR=" + values(fields.get(2), String::valueOf));
        parts.add("BYMINUTE=" + values(fields.get(1), String::valueOf));
        parts.add("BYSECOND=" + values(fields.get(0), String::valueOf));
        return Optional.of(String.join(";", parts));
    }

    private static void part(
            List<String> parts, String name, CronFieldReading field, Function<Integer, String> written) {
        if (field.restricted() && !field.every()) {
            parts.add(name + "=" + values(field, written));
        }
    }

    private static String values(CronFieldReading field, Function<Integer, String> written) {
        return field.values().stream().map(written).collect(Collectors.joining(","));
    }

    // Whether it means the same.

    /** Programs differ in what they make of local times that are skipped or come twice, so that none may be named. */
    private boolean isAsPlainAs(Schedule schedule) {
        if (!(schedule instanceof WallClockSchedule local)) {
            return true;
        }
        Instant end = start.toInstant().plus(COMPARED);
        ZoneOffsetTransition change = schedule.zone().getRules().nextTransition(start.toInstant());
        while (change != null && change.getInstant().isBefore(end)) {
            if (local.clock().isTouchedBy(change)) {
                return false;
            }
            change = schedule.zone().getRules().nextTransition(change.getInstant());
        }
        return true;
    }

    private boolean names(Schedule schedule) {
        String dtStart = start.getZone().equals(ZoneOffset.UTC)
                ? "DTSTART:" + UTC.format(start)
                : "DTSTART;TZID=" + start.getZone() + ":" + LOCAL.format(start);
        try {
            Schedule rule = RuleSchedule.parse(dtStart + "\nRRULE:" + text, schedule.zone());
            Instant from = start.toInstant();
            return instants(rule, from).equals(instants(schedule, from));
        } catch (ScheduleSyntaxException notSo) {
            return false;
        }
    }

    private static List<Instant> instants(Schedule schedule, Instant from) {
        return schedule.between(from, from.plus(COMPARED))
                .limit(MOST_COMPARED)
                .map(Occurrence::instant)
                .toList();
    }
}
