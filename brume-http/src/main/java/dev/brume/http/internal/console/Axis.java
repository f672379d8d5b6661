package dev.brume.http.internal.console;

import dev.brume.history.Pause;
import dev.brume.insight.board.Scale;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.time.format.DateTimeFormatter;
import java.time.zone.ZoneOffsetTransition;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;

/**
 * The line of time above the rows.
 *
 * @param ticks in their order
 * @param turns where clocks change in the zone of who looks
 * @param pauses of the cluster or of a namespace
 * @param now where now is, in hundredths; below 0 or above 100 where it is not shown
 */
public record Axis(List<Tick> ticks, List<Tick> turns, List<Stretch> pauses, double now) {
    private static final DateTimeFormatter TIME = DateTimeFormatter.ofPattern("HH:mm", Locale.ROOT);
    private static final DateTimeFormatter DAY = DateTimeFormatter.ofPattern("EEE d MMM", Locale.ENGLISH);

    /**
     * A mark.
     *
     * @param place in hundredths
     * @param text beside it
     * @param day whether a day begins there
     */
    public record Tick(double place, String text, boolean day) {
        /** {@return the place as an address in a picture} */
        public String x() {
            return percent(place);
        }
    }

    /** A stretch. */
    public record Stretch(double from, double until, String text) {
        /** {@return where it begins} */
        public String x() {
            return percent(from);
        }

        /** {@return how long it is} */
        public String width() {
            return percent(until - from);
        }
    }

    static String percent(double share) {
        return String.format(Locale.ROOT, "%.2f%%", share);
    }

    /** {@return where now is, as an address in a picture} */
    public String nowX() {
        return percent(now);
    }

    static Axis of(Scale scale, Duration step, ZoneId zone, List<Pause> pauses) {
        return new Axis(
                ticks(scale, step, zone), turns(scale, zone), stretches(scale, pauses), scale.share(scale.now()));
    }

    /** Counted from each midnight, so that a change of clocks moves no more than one day's. */
    private static List<Tick> ticks(Scale scale, Duration step, ZoneId zone) {
        List<Tick> ticks = new ArrayList<>();
        LocalDate day = scale.from().atZone(zone).toLocalDate();
        long days = Math.max(1, step.toDays());
        for (ZonedDateTime begin = day.atStartOfDay(zone);
                begin.toInstant().isBefore(scale.until());
                begin = begin.toLocalDate().plusDays(days).atStartOfDay(zone)) {
            Instant next = begin.toLocalDate().plusDays(1).atStartOfDay(zone).toInstant();
            for (Instant at = begin.toInstant();
                    at.isBefore(next) && at.isBefore(scale.until());
                    at = step.toDays() >= 1 ? next : at.plus(step)) {
                if (!at.isBefore(scale.from())) {
                    boolean midnight = at.equals(begin.toInstant());
                    ticks.add(new Tick(scale.share(at), (midnight ? DAY : TIME).format(at.atZone(zone)), midnight));
                }
            }
        }
        return ticks;
    }

    private static List<Tick> turns(Scale scale, ZoneId zone) {
        List<Tick> turns = new ArrayList<>();
        ZoneOffsetTransition next = zone.getRules().nextTransition(scale.from());
        while (next != null && next.getInstant().isBefore(scale.until())) {
            turns.add(new Tick(
                    scale.share(next.getInstant()),
                    "clocks go " + (next.isGap() ? "forward " : "back ")
                            + Frame.size(next.getDuration().abs()),
                    /* day= */ false));
            next = zone.getRules().nextTransition(next.getInstant());
        }
        return turns;
    }

    private static List<Stretch> stretches(Scale scale, List<Pause> pauses) {
        return pauses.stream()
                .filter(pause -> pause.since().isBefore(scale.until()))
                .filter(pause ->
                        pause.until().filter(end -> !end.isAfter(scale.from())).isEmpty())
                .map(pause -> new Stretch(
                        Math.max(0, scale.share(pause.since())),
                        Math.min(100, pause.until().map(scale::share).orElse(100.0)),
                        pause.scope() + " paused by " + pause.who()
                                + (pause.because().isEmpty() ? "" : ": " + pause.because())))
                .toList();
    }
}
