package dev.brume.insight.check;

import dev.brume.Job;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.IfDayOff;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.TermedSchedule;
import dev.brume.schedule.Terms;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.TreeMap;
import java.util.stream.Stream;

/**
 * A day on which a job's rule names a time, and which is off.
 *
 * @param date the day
 * @param calendar the first calendar that has it
 * @param moved where what falls on it goes; empty if it is left out
 * @since 0.1.0
 */
public record DayOff(LocalDate date, String calendar, Optional<LocalDate> moved) {
    private static final Duration AHEAD = Duration.ofDays(366);
    private static final int MOST_LOOKED_AT = 20_000;
    private static final int FARTHEST = 366;

    /**
     * {@return the days of the coming year on which something would be owed if they were not off, earliest first}
     *
     * @param job with its calendars
     * @param most how many at most
     */
    public static List<DayOff> coming(Job job, Instant now, int most) {
        TreeMap<LocalDate, DayOff> days = new TreeMap<>();
        for (Schedule schedule : job.schedules()) {
            if (schedule instanceof TermedSchedule termed
                    && !termed.terms().notOn().isEmpty()) {
                add(termed, now, days);
            }
        }
        return new ArrayList<>(days.values()).subList(0, Math.min(most, days.size()));
    }

    private static void add(TermedSchedule schedule, Instant now, TreeMap<LocalDate, DayOff> days) {
        Terms terms = schedule.terms();
        Schedule plain = schedule.rule().with(terms.withDays(List.of(), List.of(), IfDayOff.SKIP));
        try (Stream<Occurrence> all = plain.between(now, now.plus(AHEAD))) {
            all.limit(MOST_LOOKED_AT)
                    .map(occurrence -> occurrence.nominal().toLocalDate())
                    .distinct()
                    .forEach(date -> calendarOf(terms, date)
                            .ifPresent(calendar ->
                                    days.putIfAbsent(date, new DayOff(date, calendar.name(), moved(terms, date)))));
        }
    }

    private static Optional<DayCalendar> calendarOf(Terms terms, LocalDate date) {
        return terms.notOn().stream()
                .filter(calendar -> calendar.contains(date))
                .findFirst();
    }

    private static Optional<LocalDate> moved(Terms terms, LocalDate date) {
        if (terms.ifDayOff() == IfDayOff.SKIP) {
            return Optional.empty();
        }
        int step = terms.ifDayOff() == IfDayOff.NEXT ? 1 : -1;
        for (int i = 1; i <= FARTHEST; i++) {
            LocalDate other = date.plusDays((long) i * step);
            boolean isOn =
                    terms.onlyOn().stream().allMatch(calendar -> calendar.isMissing() || calendar.contains(other));
            if (isOn && calendarOf(terms, other).isEmpty()) {
                return Optional.of(other);
            }
        }
        return Optional.empty();
    }
}
