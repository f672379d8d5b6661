package dev.brume.insight.check;

import dev.brume.schedule.Note;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.Timeline;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.time.zone.ZoneOffsetTransition;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
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
        List<Occurrence> touched;
        try (Stream<Occurrence> around =
                timeline.between(start.isBefore(from) ? from : start, end.isAfter(until) ? until : end)) {
            touched = around.filter(ClockTurn::isTouched).limit(MOST_NAMED + 1L).toList();
        }
        if (touched.isEmpty()) {
            LocalTime first = change.getDateTimeBefore().toLocalTime();
            LocalTime second = change.getDateTimeAfter().toLocalTime();
            return "nothing is owed between " + CLOCK.format(change.isGap() ? first : second) + " and "
                    + CLOCK.format(change.isGap() ? second : first)
                    + (change.isGap() ? ", which the clocks skip" : ", which comes twice");
        }
        List<String> named = touched.stream()
                .limit(MOST_NAMED)
                .map(ClockTurn::says)
                .distinct()
                .toList();
        return String.join("; ", named) + (touched.size() > MOST_NAMED ? "; and more" : "");
    }

    private static boolean isTouched(Occurrence occurrence) {
        return occurrence.notes().contains(Note.AFTER_GAP)
                || occurrence.notes().contains(Note.FIRST_OF_FOLD)
                || occurrence.notes().contains(Note.SECOND_OF_FOLD);
    }

    private static String says(Occurrence occurrence) {
        String nominal = CLOCK.format(occurrence.nominal());
        if (occurrence.notes().contains(Note.AFTER_GAP)) {
            return nominal + " is skipped by the clocks, and what is owed then comes at "
                    + CLOCK.format(occurrence.local());
        }
        return nominal + " comes twice, and it is owed the "
                + (occurrence.notes().contains(Note.FIRST_OF_FOLD) ? "first" : "second") + " time";
    }
}
