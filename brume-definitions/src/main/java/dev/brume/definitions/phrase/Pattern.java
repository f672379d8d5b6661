package dev.brume.definitions.phrase;

import dev.brume.FollowUp;
import dev.brume.JobName;
import dev.brume.schedule.DailyWindow;
import dev.brume.schedule.Durations;
import dev.brume.schedule.EverySchedule;
import java.time.Duration;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.util.Collection;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import java.util.SortedSet;
import java.util.TreeSet;

/**
 * How often something shall happen. Immutable.
 *
 * @since 0.1.0
 */
public sealed interface Pattern {
    /** The most times of a day that are said one by one. */
    int MOST_TIMES = 23;

    /** How many minutes there may be from one time to the next of those that go by the clock: they divide an hour, or are hours that divide a day. */
    List<Integer> MINUTES = List.of(1, 2, 3, 4, 5, 6, 10, 12, 15, 20, 30, 60, 120, 180, 240, 360, 480, 720);

    /**
     * At times of the day.
     *
     * @param days on which days
     * @param times to the minute, 1 to {@value #MOST_TIMES}
     */
    record AtTimes(OnDays days, SortedSet<LocalTime> times) implements Pattern {
        /** Checks them. */
        public AtTimes {
            times = Collections.unmodifiableSortedSet(new TreeSet<>(times));
            if (times.isEmpty()) {
                throw new IllegalArgumentException("no time of day is given");
            }
            if (times.size() > MOST_TIMES) {
                throw new IllegalArgumentException(
                        times.size() + " times a day are more than " + MOST_TIMES + "; choose an interval instead");
            }
            for (LocalTime time : times) {
                if (!time.equals(LocalTime.of(time.getHour(), time.getMinute()))) {
                    throw new IllegalArgumentException(time + " is not a whole minute");
                }
            }
        }
    }

    /**
     * Every so many minutes by the clock: from each midnight on, as far as the window goes.
     *
     * @param days on which days; never every few weeks
     * @param minutes one of {@link #MINUTES}
     * @param window the part of the day; all of it if empty. Only what comes at least once an hour has one
     */
    record ByTheClock(OnDays days, int minutes, Optional<DailyWindow> window) implements Pattern {
        /** Checks them. */
        public ByTheClock {
            if (!MINUTES.contains(minutes)) {
                throw new IllegalArgumentException("every " + minutes
                        + " minutes does not come out even with the hours or the day (allowed: " + MINUTES
                        + "); choose a fixed interval, which goes on day and night");
            }
            if (days instanceof OnDays.EveryFewWeeks) {
                throw new IllegalArgumentException("every few weeks goes with times of the day, not with an interval");
            }
            if (window.isPresent() && minutes > 60) {
                throw new IllegalArgumentException(
                        "within a part of the day an interval is at most 60 minutes; say the times instead");
            }
            if (window.filter(part -> part.from().equals(part.until())).isPresent()) {
                throw new IllegalArgumentException("this part of the day is all of it; leave it out");
            }
            if (window.filter(part -> part.from().getSecond() + part.until().getSecond() > 0)
                    .isPresent()) {
                throw new IllegalArgumentException("a part of the day begins and ends at a whole minute");
            }
        }
    }

    /**
     * At a fixed interval day and night, whatever the clocks do.
     *
     * @param interval at least 1 s
     * @param window the part of the day in which it counts; all of it if empty
     */
    record FixedInterval(Duration interval, Optional<DailyWindow> window) implements Pattern {
        /** Checks it. */
        public FixedInterval {
            Durations.checked("every", interval, EverySchedule.SHORTEST, Durations.LONGEST);
        }
    }

    /**
     * Once.
     *
     * @param at by the clocks of the zone
     */
    record Once(LocalDateTime at) implements Pattern {
        /** Checks it. */
        public Once {
            if (at.getNano() != 0) {
                throw new IllegalArgumentException("the time is given to the second at most");
            }
        }
    }

    /**
     * After the runs of another job; the job itself has no schedule then.
     *
     * @param job the other one, whose follow-up it is
     * @param on which of its ends
     */
    record After(JobName job, FollowUp.On on) implements Pattern {}

    /**
     * {@return times of the day; what is the same as an interval by the clock is one}
     *
     * @throws IllegalArgumentException if they are none, or too many
     */
    static Pattern atTimes(OnDays days, Collection<LocalTime> times) {
        return Regular.interval(days, new TreeSet<>(times)).orElseGet(() -> new AtTimes(days, new TreeSet<>(times)));
    }

    /**
     * {@return an interval by the clock; one that comes up to three times a day by whole hours is said by its times}
     *
     * @throws IllegalArgumentException if it is not allowed, or leaves no time
     */
    static Pattern byTheClock(OnDays days, int minutes, Optional<DailyWindow> window) {
        ByTheClock exact =
                new ByTheClock(days, minutes, window.filter(part -> !part.from().equals(part.until())));
        SortedSet<LocalTime> times = Regular.times(exact);
        if (times.isEmpty()) {
            throw new IllegalArgumentException(
                    "no time of every " + minutes + " minutes lies in " + window.orElseThrow());
        }
        return Regular.isByHours(exact) && times.size() < Regular.LEAST ? new AtTimes(days, times) : exact;
    }
}
