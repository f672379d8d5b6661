package dev.brume.spi;

import dev.brume.Job;
import dev.brume.schedule.Counting;
import dev.brume.schedule.DayCalendar;
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
