package dev.brume.definitions.phrase;

import dev.brume.schedule.DailyWindow;
import java.time.LocalTime;
import java.util.Optional;
import java.util.SortedSet;
import java.util.TreeSet;

/** Times of the day that come at regular intervals within whole hours. Stateless. */
final class Regular {
    /** Fewer are said one by one. */
    static final int LEAST = 4;

    private static final int DAY = 24 * 60;

    private Regular() {}

    /** {@return whether an interval has a part of the day that begins and ends with an hour} */
    static boolean isByHours(Pattern.ByTheClock interval) {
        return interval.window()
                .filter(part -> part.from().getMinute() == 0 && part.until().getMinute() == 0)
                .isPresent();
    }

    /** {@return the times of an interval by the clock} */
    static SortedSet<LocalTime> times(Pattern.ByTheClock interval) {
        TreeSet<LocalTime> times = new TreeSet<>();
        for (int minute = 0; minute < DAY; minute += interval.minutes()) {
            LocalTime time = LocalTime.of(minute / 60, minute % 60);
            if (interval.window().filter(part -> !contains(part, time)).isEmpty()) {
                times.add(time);
            }
        }
        return times;
    }

    private static boolean contains(DailyWindow part, LocalTime time) {
        boolean begun = !time.isBefore(part.from());
        boolean goesOn = time.isBefore(part.until());
        return part.from().isBefore(part.until()) ? begun && goesOn : begun || goesOn;
    }

    /** {@return the interval by the clock, within whole hours, that times of the day are; empty if they are none} */
    static Optional<Pattern> interval(OnDays days, SortedSet<LocalTime> times) {
        if (times.size() < LEAST || days instanceof OnDays.EveryFewWeeks) {
            return Optional.empty();
        }
        for (int minutes : Pattern.MINUTES) {
            if (minutes > 60) {
                break;
            }
            int anHour = 60 / minutes;
            if (times.size() % anHour != 0) {
                continue;
            }
            int hours = times.size() / anHour;
            for (LocalTime from : times) {
                if (hours >= 24 || from.getMinute() != 0) {
                    continue;
                }
                Pattern.ByTheClock interval = new Pattern.ByTheClock(
                        days, minutes, Optional.of(new DailyWindow(from, from.plusHours(hours))));
                if (times(interval).equals(times)) {
                    return Optional.of(interval);
                }
            }
        }
        return Optional.empty();
    }
}
