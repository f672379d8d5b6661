package dev.brume.schedule;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.temporal.ChronoUnit;
import java.util.Locale;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * Occurrences that each follow the end of the run before, whatever its outcome.
 *
 * <p>The first is owed when the job is defined. Only {@link #afterEnd} says when the next is; {@link #next}
 * and {@link #previous} know none. Immutable and safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class AfterEndSchedule implements Schedule {
    private static final Duration LONGEST = Duration.ofDays(36_525);

    private final Duration delay;
    private final ZoneId zone;

    private AfterEndSchedule(Duration delay, ZoneId zone) {
        this.delay = delay;
        this.zone = zone;
    }

    /**
     * Creates the schedule.
     *
     * @param delay from the end of a run to the next occurrence, cut to microseconds; one second to a century
     * @throws ScheduleSyntaxException if the delay is outside these bounds
     */
    public static AfterEndSchedule of(Duration delay, ZoneId zone) {
        if (delay.compareTo(EverySchedule.SHORTEST) < 0 || delay.compareTo(LONGEST) > 0) {
            String text = Durations.format(delay);
            throw ScheduleSyntaxException.of(text, ScheduleProblem.of("afterEnd", text, 0, "is outside 1s to 36525d"));
        }
        return new AfterEndSchedule(
                Duration.ofNanos(delay.toNanos() / 1000 * 1000), Objects.requireNonNull(zone, "zone"));
    }

    /** {@return the time from an end to the next occurrence} */
    public Duration delay() {
        return delay;
    }

    @Override
    public boolean goesByEnds() {
        return true;
    }

    @Override
    public Optional<Occurrence> afterEnd(Instant end) {
        Instant due = end.plus(delay).truncatedTo(ChronoUnit.MICROS);
        return Optional.of(Occurrence.plain(due, zone).with(Note.ESTIMATED));
    }

    @Override
    public Optional<Occurrence> firstByEnds(Instant defined) {
        return Optional.of(
                Occurrence.plain(defined.truncatedTo(ChronoUnit.MICROS), zone).with(Note.ESTIMATED));
    }

    @Override
    public Optional<Occurrence> next(Instant after) {
        return Optional.empty();
    }

    @Override
    public Optional<Occurrence> previous(Instant before) {
        return Optional.empty();
    }

    @Override
    public ZoneId zone() {
        return zone;
    }

    @Override
    public Duration smallestInterval() {
        return delay;
    }

    @Override
    public String words(Locale locale) {
        Words words = Words.in(locale);
        return words.say("afterEnd", words.amount(delay));
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof AfterEndSchedule that && delay.equals(that.delay) && zone.equals(that.zone);
    }

    @Override
    public int hashCode() {
        return Objects.hash(delay, zone);
    }

    @Override
    public String toString() {
        return "after end " + Durations.format(delay);
    }
}
