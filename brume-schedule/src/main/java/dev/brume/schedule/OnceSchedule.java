package dev.brume.schedule;

import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.temporal.ChronoUnit;
import java.util.Locale;
import java.util.Objects;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * A single occurrence: at an instant, at a local time of a zone, or some time after it is first defined.
 *
 * <p>A local time in a gap is owed at the first instant after it, one in a fold the first time. One that is
 * relative ({@code in 10m}) owes nothing before {@link #countedFrom} says when it was defined. Immutable and
 * safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class OnceSchedule implements Schedule {
    private static final Pattern RELATIVE = Pattern.compile("in\\s+(\\S+)", Pattern.CASE_INSENSITIVE);

    private final String text;
    private final ZoneId zone;
    private final Optional<Duration> delay;
    private final Optional<Occurrence> occurrence;

    private OnceSchedule(String text, ZoneId zone, Optional<Duration> delay, Optional<Occurrence> occurrence) {
        this.text = text;
        this.zone = Objects.requireNonNull(zone, "zone");
        this.delay = delay;
        this.occurrence = occurrence;
    }

    /** Creates the occurrence at a moment. */
    public static OnceSchedule at(Moment moment) {
        return new OnceSchedule(
                moment.text(), moment.occurrence().zone(), Optional.empty(), Optional.of(moment.occurrence()));
    }

    /** Creates the occurrence at an instant, cut to microseconds and shown in a zone. */
    public static OnceSchedule at(Instant instant, ZoneId zone) {
        return at(Moment.at(instant, zone));
    }

    /** Creates the occurrence at a local time of a zone, cut to seconds. */
    public static OnceSchedule at(LocalDateTime local, ZoneId zone) {
        return at(Moment.at(local, zone));
    }

    /**
     * Creates the occurrence some time after it is first defined.
     *
     * @throws ScheduleSyntaxException if the delay is negative, or longer than {@link Durations#LONGEST}
     */
    public static OnceSchedule in(Duration delay, ZoneId zone) {
        if (delay.isNegative()) {
            throw ScheduleSyntaxException.of(
                    "in " + delay, ScheduleProblem.of("once", "in " + delay, 0, "lies in the past"));
        }
        if (delay.compareTo(Durations.LONGEST) > 0) {
            throw ScheduleSyntaxException.of(
                    "in " + delay,
                    ScheduleProblem.of(
                            "once", "in " + delay, 0, "is longer than " + Durations.format(Durations.LONGEST)));
        }
        return new OnceSchedule("in " + Durations.format(delay), zone, Optional.of(delay), Optional.empty());
    }

    /**
     * Reads an instant ({@code 2026-05-14T06:00:00Z}, any offset), a local time of the zone given ({@code
     * 2026-05-14T06:00}), or a delay ({@code in 10m}).
     *
     * @throws ScheduleSyntaxException if the text is none of these
     */
    public static OnceSchedule parse(String text, ZoneId zone) {
        Matcher relative = RELATIVE.matcher(text.strip());
        return relative.matches() ? in(Durations.parse(relative.group(1)), zone) : at(Moment.parse(text, zone));
    }

    /** {@return the single occurrence; empty for a relative one that is not counted from anything yet} */
    public Optional<Occurrence> occurrence() {
        return occurrence;
    }

    /** {@return the delay of a relative one} */
    public Optional<Duration> delay() {
        return delay;
    }

    @Override
    public boolean counts() {
        return delay.isPresent();
    }

    @Override
    public OnceSchedule countedFrom(Counting from) {
        return delay.map(after -> new OnceSchedule(
                        text,
                        zone,
                        delay,
                        Optional.of(Occurrence.plain(from.defined().plus(after).truncatedTo(ChronoUnit.MICROS), zone))))
                .orElse(this);
    }

    /** The schedule as calendars leave it: the same, moved with its time of day, or owing nothing. */
    OnceSchedule on(WorkingDays days, IfDayOff ifDayOff) {
        return new OnceSchedule(text, zone, delay, occurrence.flatMap(only -> on(only, days, ifDayOff)));
    }

    private Optional<Occurrence> on(Occurrence only, WorkingDays days, IfDayOff ifDayOff) {
        long day = only.nominal().toLocalDate().toEpochDay();
        long target = days.target(day, ifDayOff);
        if (target == day || target == LocalTimes.NONE) {
            return Optional.of(only).filter(same -> target == day);
        }
        Occurrence moved = Moment.resolve(only.nominal().plusDays(target - day), zone);
        return Optional.of(new Occurrence(moved.instant(), only.nominal(), zone, moved.notes()).with(Note.MOVED));
    }

    @Override
    public ZoneId zone() {
        return zone;
    }

    @Override
    public Optional<Occurrence> next(Instant after) {
        return occurrence.filter(only -> only.instant().isAfter(after));
    }

    @Override
    public Optional<Occurrence> previous(Instant before) {
        return occurrence.filter(only -> only.instant().isBefore(before));
    }

    @Override
    public Duration smallestInterval() {
        return ChronoUnit.FOREVER.getDuration();
    }

    @Override
    public String words(Locale locale) {
        Words words = Words.in(locale);
        return occurrence.isPresent()
                ? words.say(
                        "once.at",
                        words.moment(LocalDateTime.ofInstant(occurrence.get().instant(), zone)),
                        words.zone(zone))
                : words.say("once.in", words.amount(delay.orElseThrow()));
    }

    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof OnceSchedule that && text.equals(that.text) && zone.equals(that.zone);
    }

    @Override
    public int hashCode() {
        return Objects.hash(text, zone);
    }

    /** {@return the text that {@link #parse} reads back, given the same zone} */
    @Override
    public String toString() {
        return text;
    }
}
