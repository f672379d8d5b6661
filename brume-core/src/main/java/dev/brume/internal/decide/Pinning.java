package dev.brume.internal.decide;

import dev.brume.Job;
import dev.brume.schedule.Counting;
import dev.brume.schedule.IfDayOff;
import dev.brume.schedule.Note;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.TermedSchedule;
import dev.brume.spi.Pins;
import dev.brume.spi.Pins.SchedulePin;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * Decides what a new version of a definition pins, given the version before it.
 *
 * <p>A schedule is the same as an earlier one if its rule is; else the one in the same place, if nothing else claims
 * it. Limits go on counting. An occurrence that a calendar had moved, and that was owed already, is not owed again on
 * another day because the calendar has changed.
 */
public final class Pinning {
    private static final Duration FARTHEST_MOVE = Duration.ofDays(367);
    private static final int MOST_STEPS = 10_000;

    private final Optional<Job> before;
    private final Instant at;
    private final Set<Integer> taken = new HashSet<>();

    private Pinning(Optional<Job> before, Instant at) {
        this.before = before;
        this.at = at;
    }

    /**
     * {@return the pins}
     *
     * @param job the new definition, its calendars resolved
     * @param calendars their versions
     * @param before the version before, as it was pinned
     * @param at from when the new one holds, inclusive
     * @param tzdata the version of the zone rules in use
     */
    public static Pins of(Job job, Map<String, Integer> calendars, Optional<Job> before, Instant at, String tzdata) {
        List<SchedulePin> pins = new Pinning(before, at).pins(job);
        boolean nothing = pins.stream().allMatch(SchedulePin.NONE::equals);
        return new Pins(calendars, nothing ? List.of() : pins, tzdata);
    }

    private List<SchedulePin> pins(Job job) {
        List<Schedule> schedules = job.schedules();
        List<Optional<Schedule>> earlier = new ArrayList<>();
        schedules.forEach(schedule -> earlier.add(sameRule(schedule)));
        List<SchedulePin> pins = new ArrayList<>();
        for (int i = 0; i < schedules.size(); i++) {
            Optional<Schedule> old = earlier.get(i).isPresent() ? earlier.get(i) : samePlace(i);
            pins.add(pin(job, schedules.get(i), old, earlier.get(i).isPresent()));
        }
        return pins;
    }

    private Optional<Schedule> sameRule(Schedule schedule) {
        List<Schedule> all = before.map(Job::schedules).orElse(List.of());
        for (int i = 0; i < all.size(); i++) {
            if (all.get(i).rule().equals(schedule.rule()) && taken.add(i)) {
                return Optional.of(all.get(i));
            }
        }
        return Optional.empty();
    }

    private Optional<Schedule> samePlace(int place) {
        List<Schedule> all = before.map(Job::schedules).orElse(List.of());
        return place < all.size() && taken.add(place) ? Optional.of(all.get(place)) : Optional.empty();
    }

    private SchedulePin pin(Job job, Schedule schedule, Optional<Schedule> old, boolean sameRule) {
        Optional<Counting> counting = schedule.counts() ? Optional.of(counting(job, old, sameRule)) : Optional.empty();
        Set<LocalDateTime> satisfied = old.isPresent() && sameRule ? satisfied(old.get(), schedule) : Set.of();
        return counting.isEmpty() && satisfied.isEmpty() ? SchedulePin.NONE : new SchedulePin(counting, satisfied);
    }

    /** Schedules count before the spread, so a job that is owed from now on counts from its offset before now. */
    private Counting counting(Job job, Optional<Schedule> old, boolean sameRule) {
        Instant from = at.minus(job.offset());
        Optional<Counting> known = old.flatMap(Pins::countingOf);
        if (known.isEmpty()) {
            return new Counting(at, from, 0);
        }
        Instant since = known.get().since();
        Instant until = oldEnd();
        boolean owing = before.orElseThrow().enabled() && since.isBefore(until);
        long owed = owing ? old.orElseThrow().count(since, until) : 0;
        return new Counting(
                sameRule ? known.get().defined() : at, from, known.get().owed() + owed);
    }

    // Moves.

    private Set<LocalDateTime> satisfied(Schedule old, Schedule schedule) {
        if (!moves(old) && !moves(schedule)) {
            return Set.of();
        }
        LocalDateTime local = LocalDateTime.ofInstant(at, schedule.zone());
        Set<LocalDateTime> owedAhead = new HashSet<>();
        if (old instanceof TermedSchedule termed) {
            termed.satisfied().stream()
                    .filter(nominal -> nominal.isAfter(local.minus(FARTHEST_MOVE)))
                    .forEach(owedAhead::add);
        }
        Optional<Occurrence> owed = old.previous(oldEnd());
        for (int steps = 0; steps < MOST_STEPS && within(owed); steps++) {
            if (owed.get().notes().contains(Note.MOVED) && !owed.get().nominal().isBefore(local)) {
                owedAhead.add(owed.get().nominal());
            }
            owed = old.previous(owed.get().instant());
        }
        Optional<Occurrence> coming = schedule.next(at.minusNanos(1));
        for (int steps = 0; steps < MOST_STEPS && within(coming); steps++) {
            LocalDateTime nominal = coming.get().nominal();
            if (coming.get().notes().contains(Note.MOVED) && nominal.isBefore(local) && wasOwed(old, nominal)) {
                owedAhead.add(nominal);
            }
            coming = schedule.next(coming.get().instant());
        }
        return owedAhead;
    }

    /** Up to when the version before owed, as its schedules count, before its spread. */
    private Instant oldEnd() {
        return at.minus(before.orElseThrow().offset());
    }

    private boolean within(Optional<Occurrence> occurrence) {
        return occurrence.isPresent()
                && Duration.between(occurrence.get().instant(), at).abs().compareTo(FARTHEST_MOVE) <= 0;
    }

    private boolean wasOwed(Schedule old, LocalDateTime nominal) {
        Optional<Occurrence> owed = old.previous(oldEnd());
        for (int steps = 0; steps < MOST_STEPS && within(owed); steps++) {
            if (owed.get().nominal().equals(nominal)) {
                return true;
            }
            owed = old.previous(owed.get().instant());
        }
        return false;
    }

    private static boolean moves(Schedule schedule) {
        return schedule instanceof TermedSchedule termed && termed.terms().ifDayOff() != IfDayOff.SKIP;
    }
}
