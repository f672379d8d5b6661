package dev.brume;

import dev.brume.schedule.Durations;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.time.format.DateTimeParseException;
import java.util.Optional;

/**
 * By when a run must have ended: at a time of day, or so long after its planned time. Nothing is stopped when it is missed; it is told.
 *
 * @param time the first such time of day after the occurrence, in its schedule's zone
 * @param after so long after the planned time
 * @since 0.1.0
 */
public record Deadline(Optional<LocalTime> time, Optional<Duration> after) {
    private static final Duration SHORTEST = Duration.ofSeconds(1);

    /** Checks it: it is one of the two. */
    public Deadline {
        if (time.isPresent() == after.isPresent()) {
            throw new IllegalArgumentException("endBy: expected a time of day, or a duration after the planned time");
        }
        after.ifPresent(length -> Durations.checked("endBy", length, SHORTEST, Durations.LONGEST));
    }

    /** {@return the first such time of day after an occurrence} */
    public static Deadline at(LocalTime time) {
        return new Deadline(Optional.of(time), Optional.empty());
    }

    /** {@return so long after the planned time} */
    public static Deadline after(Duration length) {
        return new Deadline(Optional.empty(), Optional.of(length));
    }

    /**
     * {@return the deadline of a text}
     *
     * @param text a time of day such as {@code 06:00}, or a duration such as {@code 90m}
     * @throws IllegalArgumentException if it is neither
     */
    public static Deadline parse(String text) {
        if (text.indexOf(':') < 0) {
            return after(Durations.parse(text));
        }
        try {
            return at(LocalTime.parse(text));
        } catch (DateTimeParseException e) {
            throw new IllegalArgumentException(
                    "'" + text + "' is neither a time of day (such as \"06:00\") nor a duration (such as 90m)", e);
        }
    }

    /**
     * {@return when a run must have ended}
     *
     * @param planned for when it was planned
     * @param zone of its schedule; a time of day that a clock change leaves out is as much later as the clocks were put forward, the first of two counts
     */
    public Instant of(Instant planned, ZoneId zone) {
        if (after.isPresent()) {
            return planned.plus(after.get());
        }
        ZonedDateTime local = planned.atZone(zone);
        ZonedDateTime same = local.toLocalDate().atTime(time.orElseThrow()).atZone(zone);
        return same.toInstant().isAfter(planned)
                ? same.toInstant()
                : local.toLocalDate()
                        .plusDays(1)
                        .atTime(time.orElseThrow())
                        .atZone(zone)
                        .toInstant();
    }

    /** {@return it as definitions write it} */
    @Override
    public String toString() {
        return time.map(LocalTime::toString).orElseGet(() -> Durations.format(after.orElseThrow()));
    }
}
