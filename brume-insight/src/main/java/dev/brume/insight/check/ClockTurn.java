package dev.brume.insight.check;

import dev.brume.schedule.Note;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.Timeline;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.time.zone.ZoneOffsetTransition;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * A change of the clocks, and what it does to a schedule.
 *
 * @param at when clocks change
 * @param forward by how much they go forward; negative if they go back
 * @param owed how many occurrences there are on that day
 * @param says what becomes of them, as a sentence without a full stop
 * @since 0.1.0
 */
public record ClockTurn(Instant at, Duration forward, long owed, String says) {
    private static final Duration AHEAD = Duration.ofDays(366);
    private static final int MOST_NAMED = 3;
    private static final int MOST_LOOKED_AT = 20_000;
    private static final DateTimeFormatter CLOCK = DateTimeFormatter.ofPattern("HH:mm", Locale.ROOT);

    /**
     * {@return the next changes of a zone's clocks within a year, at most two}
     *
     * @param timeline what they are held against
     * @param now after which they lie
     */
    public static List<ClockTurn> coming(Timeline timeline, ZoneId zone, Instant now) {
        List<ClockTurn> turns = new ArrayList<>();
        ZoneOffsetTransition change = zone.getRules().nextTransition(now);
        while (change != null && turns.size() < 2 && change.getInstant().isBefore(now.plus(AHEAD))) {
            turns.add(of(timeline, zone, change));
            change = zone.getRules().nextTransition(change.getInstant());
        }
        return turns;
    }

    private static ClockTurn of(Timeline timeline, ZoneId zone, ZoneOffsetTransition change) {
        LocalDate date = change.getDateTimeBefore().toLocalDate();
        Instant from = date.atStartOfDay(zone).toInstant();
        Instant until = date.plusDays(1).atStartOfDay(zone).toInstant();
        long owed = timeline.count(from, until);
        return new ClockTurn(
                change.getInstant(), change.getDuration(), owed, says(timeline, change, owed, from, until));
    }

    private static String says(Timeline timeline, ZoneOffsetTransition change, long owed, Instant from, Instant until) {
        if (owed == 0) {
            return "nothing is owed on that day";
        }
        Instant start = change.getInstant().minus(change.getDuration().abs());
        Instant end = change.getInstant().plus(change.getDuration().abs()).plusSeconds(1);
        TreeMap<LocalDateTime, Set<Note>> touched = new TreeMap<>();
        try (Stream<Occurrence> around =
                timeline.between(start.isBefore(from) ? from : start, end.isAfter(until) ? until : end)) {
            around.limit(MOST_LOOKED_AT)
                    .filter(ClockTurn::isTouched)
                    .forEach(each -> touched.computeIfAbsent(each.nominal(), any -> EnumSet.noneOf(Note.class))
                            .addAll(each.notes()));
        }
        if (touched.isEmpty()) {
            LocalTime first = change.getDateTimeBefore().toLocalTime();
            LocalTime second = change.getDateTimeAfter().toLocalTime();
            return "nothing is owed between " + CLOCK.format(change.isGap() ? first : second) + " and "
                    + CLOCK.format(change.isGap() ? second : first)
                    + (change.isGap() ? ", which the clocks skip" : ", which comes twice");
        }
        boolean several = touched.size() > 1;
        String named = touched.size() <= MOST_NAMED
                ? touched.keySet().stream().map(CLOCK::format).collect(Collectors.joining(", "))
                : touched.size() + " times from " + CLOCK.format(touched.firstKey()) + " to "
                        + CLOCK.format(touched.lastKey());
        return named + says(touched.firstEntry().getValue(), several, change);
    }

    private static String says(Set<Note> notes, boolean several, ZoneOffsetTransition change) {
        if (notes.contains(Note.AFTER_GAP)) {
            return (several ? " are" : " is") + " skipped by the clocks, and what is owed then comes at "
                    + CLOCK.format(change.getDateTimeAfter());
        }
        String which = notes.contains(Note.FIRST_OF_FOLD) && notes.contains(Note.SECOND_OF_FOLD)
                ? "both times"
                : notes.contains(Note.FIRST_OF_FOLD) ? "the first time" : "the second time";
        return (several ? " come" : " comes") + " twice, and " + (several ? "they are" : "it is") + " owed " + which;
    }

    private static boolean isTouched(Occurrence occurrence) {
        return occurrence.notes().contains(Note.AFTER_GAP)
                || occurrence.notes().contains(Note.FIRST_OF_FOLD)
                || occurrence.notes().contains(Note.SECOND_OF_FOLD);
    }
}
