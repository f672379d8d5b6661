package dev.brume.cli;

import dev.brume.definitions.Subject;
import dev.brume.schedule.Durations;
import dev.brume.schedule.Note;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.Schedule;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.zone.ZoneOffsetTransition;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;

/**
 * What a subject does on the days on which clocks change.
 *
 * @param zone whose clocks
 * @param change how they do
 * @param owed all occurrences of the local day
 * @param ordinary how many the same day of the week before has
 */
record TransitionDays(ZoneId zone, ZoneOffsetTransition change, List<Occurrence> owed, long ordinary) {
    private static final Duration AHEAD = Duration.ofDays(731);
    private static final int MOST_LISTED = 8;
    private static final int MOST_OWED = 200_000;

    static List<TransitionDays> of(Subject subject, Instant from) {
        Set<ZoneId> zones = new LinkedHashSet<>();
        subject.schedules().stream().map(Schedule::zone).forEach(zones::add);
        List<TransitionDays> days = new ArrayList<>();
        for (ZoneId zone : zones) {
            ZoneOffsetTransition change = zone.getRules().nextTransition(from);
            while (change != null && change.getInstant().isBefore(from.plus(AHEAD))) {
                days.add(day(subject, zone, change));
                change = zone.getRules().nextTransition(change.getInstant());
            }
        }
        return days;
    }

    private static TransitionDays day(Subject subject, ZoneId zone, ZoneOffsetTransition change) {
        LocalDate date = change.getDateTimeBefore().toLocalDate();
        LocalDate weekBefore = date.minusDays(7);
        List<Occurrence> owed = subject.timeline()
                .between(start(date, zone), start(date.plusDays(1), zone))
                .limit(MOST_OWED)
                .toList();
        long ordinary = subject.timeline().count(start(weekBefore, zone), start(weekBefore.plusDays(1), zone));
        return new TransitionDays(zone, change, owed, ordinary);
    }

    private static Instant start(LocalDate date, ZoneId zone) {
        return date.atStartOfDay(zone).toInstant();
    }

    /** {@code Sun 2027-03-28, Atlantic/Azores: clocks go forward by 1h, from 00:00 to 01:00}. */
    String title() {
        LocalDateTime before = change.getDateTimeBefore();
        LocalDateTime after = change.getDateTimeAfter();
        return Times.local(change.getInstant(), zone).substring(0, 14) + ", " + zone + ": clocks go "
                + (change.isGap() ? "forward" : "back") + " by "
                + Durations.format(change.getDuration().abs()) + ", from " + before.toLocalTime() + " to "
                + after.toLocalTime();
    }

    /** The occurrences worth a line: all if they are few, else those that a policy touched. */
    List<Occurrence> listed() {
        if (owed.size() <= MOST_LISTED) {
            return owed;
        }
        List<Occurrence> touched = owed.stream()
                .filter(occurrence -> !Set.of(Note.SPREAD).containsAll(occurrence.notes()))
                .toList();
        return touched.subList(0, Math.min(MOST_LISTED, touched.size()));
    }

    /** What is to be said of the day as a whole. */
    String summary() {
        String ordinarily = owed.size() == ordinary ? "as on the same day a week before" : ordinary + " a week before";
        return switch (owed.size()) {
            case 0 -> "nothing due that day, " + ordinarily;
            case 1 -> "once that day, " + ordinarily;
            default -> owed.size() + " times that day, " + ordinarily;
        };
    }
}
