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
 * A fixed grid of elapsed time: every so long from an anchor, unaffected by clock changes.
 *
 * <p>The anchor is the epoch unless one is given, so that the same interval means the same instants
 * everywhere. Immutable and safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class EverySchedule implements Schedule {
    /** The shortest interval. */
    public static final Duration SHORTEST = Duration.ofSeconds(1);

    private static final Duration LONGEST = Duration.ofDays(36_525);

    private static final long FARTHEST = Long.MAX_VALUE / 1_000_000 / 2;

    private final Duration interval;
    private final Instant anchor;
    private final ZoneId zone;
    private final long intervalMicros;
    private final long anchorMicros;

    private EverySchedule(Duration interval, Instant anchor, ZoneId zone) {
        this.interval = interval;
        this.anchor = anchor;
        this.zone = zone;
        this.intervalMicros = interval.toNanos() / 1000;
        this.anchorMicros = micros(anchor);
    }

    /** Microseconds since the epoch, rounded down; instants more than 140,000 years away count as that far. */
    private static long micros(Instant instant) {
        long seconds = Math.max(-FARTHEST, Math.min(FARTHEST, instant.getEpochSecond()));
        return seconds * 1_000_000L + instant.getNano() / 1000;
    }

    /**
     * Creates a grid anchored at the epoch and shown in UTC; the interval is cut to microseconds.
     *
     * @throws ScheduleSyntaxException if the interval is below one second or above a century
     */
    public static EverySchedule of(Duration interval) {
        if (interval.compareTo(SHORTEST) < 0 || interval.compareTo(LONGEST) > 0) {
            String text = Durations.format(interval);
            throw ScheduleSyntaxException.of(text, ScheduleProblem.of("every", text, 0, "is outside 1s to 36525d"));
        }
        Duration cut = Duration.ofNanos(interval.toNanos() / 1000 * 1000);
        return new EverySchedule(cut, Instant.EPOCH, ZoneId.of("UTC"));
    }

    /**
     * {@return a copy whose grid passes through an instant, cut to microseconds}
     *
     * @throws ScheduleSyntaxException if it lies before 1900 or not before 9000
     */
    public EverySchedule withAnchor(Instant instant) {
        Moment.checked("anchor", instant);
        return new EverySchedule(interval, instant.truncatedTo(ChronoUnit.MICROS), zone);
    }

    /** {@return a copy whose occurrences are shown in a zone; their instants stay the same} */
    public EverySchedule withZone(ZoneId shownIn) {
        return new EverySchedule(interval, anchor, Objects.requireNonNull(shownIn, "shownIn"));
    }

    /** {@return the time from one occurrence to the next} */
    public Duration interval() {
        return interval;
    }

    /** {@return an instant through which the grid passes} */
    public Instant anchor() {
        return anchor;
    }

    @Override
    public ZoneId zone() {
        return zone;
    }

    @Override
    public Optional<Occurrence> next(Instant after) {
        return after.getEpochSecond() >= FARTHEST
                ? Optional.empty()
                : Optional.of(Occurrence.plain(step(floorSteps(after) + 1), zone));
    }

    @Override
    public Optional<Occurrence> previous(Instant before) {
        return before.getEpochSecond() <= -FARTHEST
                ? Optional.empty()
                : Optional.of(Occurrence.plain(step(floorSteps(Instants.justBefore(before))), zone));
    }

    @Override
    public long count(Instant from, Instant until) {
        return from.isBefore(until)
                ? floorSteps(Instants.justBefore(until)) - floorSteps(Instants.justBefore(from))
                : 0;
    }

    /** How many whole intervals lie between the anchor and an instant, rounded down. */
    private long floorSteps(Instant instant) {
        return Math.floorDiv(micros(instant) - anchorMicros, intervalMicros);
    }

    private Instant step(long steps) {
        long micros = anchorMicros + steps * intervalMicros;
        return Instant.ofEpochSecond(Math.floorDiv(micros, 1_000_000L), Math.floorMod(micros, 1_000_000L) * 1000);
    }

    @Override
    public Duration smallestInterval() {
        return interval;
    }

    @Override
    public String words(Locale locale) {
        Words words = Words.in(locale);
        return anchor.equals(Instant.EPOCH)
                ? words.say("every", words.duration(interval))
                : words.say("every.anchored", words.duration(interval), anchor.toString());
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof EverySchedule that
                && interval.equals(that.interval)
                && anchor.equals(that.anchor)
                && zone.equals(that.zone);
    }

    @Override
    public int hashCode() {
        return Objects.hash(interval, anchor, zone);
    }

    @Override
    public String toString() {
        return "every " + Durations.format(interval);
    }
}
