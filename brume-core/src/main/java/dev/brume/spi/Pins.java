package dev.brume.spi;

import dev.brume.Job;
import dev.brume.schedule.Counting;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.OnceSchedule;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.TermedSchedule;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * The facts that a version of a definition depends on beyond its own text, so that its occurrences can be computed again at any time:
 * which versions of calendars it goes by, from when its limits count, and what it need not owe again.
 *
 * @param calendars the version of each calendar its schedules name; 0 for one that was missing
 * @param schedules one for each schedule, in order; empty if none of them has anything to pin
 * @param tzdata the version of the zone rules it was defined under
 * @since 0.1.0
 */
public record Pins(Map<String, Integer> calendars, List<SchedulePin> schedules, String tzdata) {

    /** Nothing pinned. */
    public static final Pins NONE = new Pins(Map.of(), List.of(), "");

    /**
     * The pins of one schedule.
     *
     * @param counting from when it counts; empty if nothing in it does
     * @param satisfied nominal times that were owed on another day already
     */
    public record SchedulePin(Optional<Counting> counting, Set<LocalDateTime> satisfied) {
        /** Nothing pinned. */
        public static final SchedulePin NONE = new SchedulePin(Optional.empty(), Set.of());
    }

    /** Makes everything unmodifiable. */
    public Pins {
        calendars = Map.copyOf(calendars);
        schedules = List.copyOf(schedules);
    }

    /** {@return what a job's schedules count from, and need not owe again; calendars and zone rules are not told} */
    public static Pins of(Job job) {
        List<SchedulePin> pins = job.schedules().stream().map(Pins::pin).toList();
        return pins.stream().allMatch(SchedulePin.NONE::equals) ? NONE : new Pins(Map.of(), pins, "");
    }

    private static SchedulePin pin(Schedule schedule) {
        Set<LocalDateTime> satisfied = schedule instanceof TermedSchedule termed ? termed.satisfied() : Set.of();
        Optional<Counting> counting = countingOf(schedule);
        return counting.isEmpty() && satisfied.isEmpty() ? SchedulePin.NONE : new SchedulePin(counting, satisfied);
    }

    /** {@return from when a schedule counts; empty if nothing in it does} */
    public static Optional<Counting> countingOf(Schedule schedule) {
        if (schedule instanceof TermedSchedule termed) {
            return termed.counting();
        }
        return schedule instanceof OnceSchedule once && once.delay().isPresent()
                ? once.occurrence()
                        .map(only ->
                                Counting.from(only.instant().minus(once.delay().orElseThrow())))
                : Optional.empty();
    }

    /** {@return a job as these pins make it, given the calendars by name} */
    public Job apply(Job job, Map<String, DayCalendar> known) {
        List<Schedule> pinned = new ArrayList<>();
        List<Schedule> plain = job.withCalendars(known).schedules();
        for (int i = 0; i < plain.size(); i++) {
            SchedulePin pin = i < schedules.size() ? schedules.get(i) : SchedulePin.NONE;
            Schedule schedule = plain.get(i);
            if (pin.counting().isPresent()) {
                schedule = schedule.countedFrom(pin.counting().get());
            }
            if (!pin.satisfied().isEmpty() && schedule instanceof TermedSchedule termed) {
                schedule = termed.without(pin.satisfied());
            }
            pinned.add(schedule);
        }
        return job.withSchedules(pinned);
    }
}
