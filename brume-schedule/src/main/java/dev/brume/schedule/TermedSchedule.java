package dev.brume.schedule;

import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.util.Locale;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * A schedule under terms. Immutable and safe for use by many threads.
 *
 * <p>A limit counts from {@link Terms#from}, or from what {@link #countedFrom} said; before either is known it
 * does not limit anything yet.
 *
 * @since 0.1.0
 */
public final class TermedSchedule implements Schedule {
    private final Schedule rule;
    private final Terms terms;
    private final Optional<Counting> counting;
    private final Set<LocalDateTime> satisfied;
    private final Timeline unlimited;
    private volatile @Nullable Timeline limited;

    TermedSchedule(Schedule rule, Terms terms) {
        this(rule, terms, Optional.empty(), Set.of());
    }

    private TermedSchedule(Schedule rule, Terms terms, Optional<Counting> counting, Set<LocalDateTime> satisfied) {
        this.rule = rule;
        this.terms = terms;
        this.counting = counting;
        this.satisfied = Set.copyOf(satisfied);
        Timeline staged = stages(rule, terms);
        this.unlimited = satisfied.isEmpty() ? staged : new Without(staged, this.satisfied);
    }

    private static Timeline stages(Schedule rule, Terms terms) {
        if (rule.goesByEnds() && terms.atMost().isPresent()) {
            throw ScheduleSyntaxException.of(
                    rule.toString(),
                    ScheduleProblem.of(
                            "atMost",
                            Long.toString(terms.atMost().getAsLong()),
                            0,
                            "cannot be counted for '" + rule + "', whose times are not known beforehand; use until"));
        }
        Timeline timeline = terms.hasCalendars() ? onWorkingDays(rule, terms) : rule;
        if (terms.window().isPresent()) {
            Stretches window = terms.window().get().stretches();
            timeline = new StretchFilter(timeline, window, ZoneSegments.of(rule.zone()));
        }
        return terms.from().isPresent() || terms.until().isPresent()
                ? new Bounded(timeline, terms.begin(), terms.end())
                : timeline;
    }

    private static Timeline onWorkingDays(Schedule rule, Terms terms) {
        WorkingDays days = terms.workingDays();
        if (rule instanceof WallClockSchedule local) {
            LocalTimes times = local.clock().times();
            return local.clock()
                    .with(
                            terms.ifDayOff() == IfDayOff.SKIP
                                    ? new WorkingDayTimes(times, days)
                                    : new MovedTimes(times, days, terms.ifDayOff()));
        }
        if (rule instanceof OnceSchedule once) {
            return once.on(days, terms.ifDayOff());
        }
        if (terms.ifDayOff() != IfDayOff.SKIP) {
            throw ScheduleSyntaxException.of(
                    rule.toString(),
                    ScheduleProblem.of(
                            "ifDayOff",
                            terms.ifDayOff().name().toLowerCase(Locale.ROOT),
                            0,
                            "moves a time of day, and '" + rule + "' has none; only skip is possible"));
        }
        return new StretchFilter(rule, new Stretches.Whole(days), ZoneSegments.of(rule.zone()));
    }

    @Override
    public Schedule rule() {
        return rule;
    }

    /** {@return the terms} */
    public Terms terms() {
        return terms;
    }

    /** {@return from when it counts, once that is known} */
    public Optional<Counting> counting() {
        return counting;
    }

    /** {@return the nominal times that are not owed because they were owed on another day} */
    public Set<LocalDateTime> satisfied() {
        return satisfied;
    }

    @Override
    public Schedule with(Terms others) {
        return rule.with(others);
    }

    @Override
    public boolean counts() {
        return rule.counts() || terms.atMost().isPresent();
    }

    @Override
    public TermedSchedule countedFrom(Counting from) {
        return counts() ? new TermedSchedule(rule.countedFrom(from), terms, Optional.of(from), satisfied) : this;
    }

    /**
     * {@return a copy that does not owe the occurrences of certain nominal times, because they were owed already on
     * another day}
     */
    public TermedSchedule without(Set<LocalDateTime> nominals) {
        return new TermedSchedule(rule, terms, counting, nominals);
    }

    /** {@return the schedule with other terms of the same kind, counted as before; for calendars that changed} */
    public TermedSchedule withSame(Terms others) {
        return new TermedSchedule(rule, others, counting, satisfied);
    }

    private Timeline timeline() {
        if (terms.atMost().isEmpty()) {
            return unlimited;
        }
        Timeline known = limited;
        if (known == null) {
            known = limit();
            limited = known;
        }
        return known;
    }

    /** The limit as an end: right after the last occurrence that it leaves. */
    private Timeline limit() {
        Optional<Instant> start =
                counting.map(Counting::since).or(() -> terms.from().map(Moment::instant));
        if (start.isEmpty() || rule.goesByEnds()) {
            return unlimited;
        }
        long left = Math.max(
                0, terms.atMost().getAsLong() - counting.map(Counting::owed).orElse(0L));
        Instant end = start.get();
        if (left > 0) {
            Instant last = Instants.justBefore(start.get());
            Optional<Occurrence> found = unlimited.next(last);
            for (long i = 0; i < left && found.isPresent(); i++) {
                last = found.get().instant();
                found = unlimited.next(last);
            }
            end = last.plusNanos(1);
        }
        return new Bounded(unlimited, start.get(), end);
    }

    @Override
    public Optional<Occurrence> next(Instant after) {
        return timeline().next(after);
    }

    @Override
    public Optional<Occurrence> previous(Instant before) {
        return timeline().previous(before);
    }

    @Override
    public long count(Instant from, Instant until) {
        return timeline().count(from, until);
    }

    @Override
    public boolean goesByEnds() {
        return rule.goesByEnds();
    }

    /** {@return when the next is owed: the first instant after the delay that the terms allow} */
    @Override
    public Optional<Occurrence> afterEnd(Instant end) {
        return estimated(rule.afterEnd(end));
    }

    @Override
    public Optional<Occurrence> firstByEnds(Instant defined) {
        return estimated(rule.firstByEnds(defined));
    }

    private Optional<Occurrence> estimated(Optional<Occurrence> byRule) {
        return byRule.flatMap(owed -> allowed(owed.instant()))
                .map(at -> Occurrence.plain(at, zone()).with(Note.ESTIMATED));
    }

    private Optional<Instant> allowed(Instant due) {
        ZoneSegments segments = ZoneSegments.of(zone());
        Optional<Instant> at = Optional.of(due.isBefore(terms.begin()) ? terms.begin() : due);
        for (Optional<Instant> before = Optional.empty(); !at.equals(before); ) {
            before = at;
            if (terms.hasCalendars()) {
                Stretches days = new Stretches.Whole(terms.workingDays());
                at = at.flatMap(instant -> StretchFilter.firstInside(instant, days, segments));
            }
            if (terms.window().isPresent()) {
                Stretches window = terms.window().get().stretches();
                at = at.flatMap(instant -> StretchFilter.firstInside(instant, window, segments));
            }
        }
        return at.filter(instant -> instant.isBefore(terms.end()));
    }

    @Override
    public ZoneId zone() {
        return rule.zone();
    }

    @Override
    public Duration smallestInterval() {
        return rule.smallestInterval();
    }

    @Override
    public String words(Locale locale) {
        Words words = Words.in(locale);
        boolean zoneSaid = rule instanceof WallClockSchedule || rule instanceof OnceSchedule;
        boolean zoneMatters = terms.window().isPresent() || terms.hasCalendars();
        String said = rule.words(locale);
        return words.with(
                zoneSaid || !zoneMatters ? said : words.say("sentence", said, words.zone(zone())), terms, zone());
    }

    /** Equal if rule and terms are, whatever it counts from. */
    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof TermedSchedule that && rule.equals(that.rule) && terms.equals(that.terms);
    }

    @Override
    public int hashCode() {
        return Objects.hash(rule, terms);
    }

    @Override
    public String toString() {
        return rule.toString();
    }
}
