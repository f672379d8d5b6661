package dev.brume.schedule;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Objects;
import java.util.Optional;
import java.util.OptionalLong;

/**
 * What any schedule may carry beside its rule. Immutable; each method returns a copy.
 *
 * <p>Applied in this order: calendars on the date that the rule names (a move keeps the time of day, by at most 366
 * days), then gaps and folds, then the daily window by the wall clock, then beginning and end, then the
 * limit, which counts occurrences that were owed.
 *
 * @param notOn calendars on whose days nothing is owed
 * @param onlyOn calendars outside of whose days nothing is owed
 * @param ifDayOff what becomes of an occurrence on such a day
 * @param window the part of the day in which occurrences are owed
 * @param from nothing is owed before it (inclusive)
 * @param until nothing is owed from it on (exclusive)
 * @param atMost how many occurrences are owed in all, counted from {@code from}, or from the first definition
 * @since 0.1.0
 */
public record Terms(
        List<DayCalendar> notOn,
        List<DayCalendar> onlyOn,
        IfDayOff ifDayOff,
        Optional<DailyWindow> window,
        Optional<Moment> from,
        Optional<Moment> until,
        OptionalLong atMost) {
    /** The greatest limit on the number of occurrences. */
    public static final long MOST = 1_000_000;

    /** No terms at all. */
    public static final Terms NONE = new Terms(
            List.of(),
            List.of(),
            IfDayOff.SKIP,
            Optional.empty(),
            Optional.empty(),
            Optional.empty(),
            OptionalLong.empty());

    /** Checks the terms against each other. */
    public Terms {
        notOn = List.copyOf(notOn);
        onlyOn = List.copyOf(onlyOn);
        Objects.requireNonNull(ifDayOff, "ifDayOff");
        if (ifDayOff != IfDayOff.SKIP && notOn.isEmpty() && onlyOn.isEmpty()) {
            throw refused("ifDayOff", ifDayOff.name().toLowerCase(Locale.ROOT), "needs notOn or onlyOn");
        }
        if (from.isPresent()
                && until.isPresent()
                && !from.get().instant().isBefore(until.get().instant())) {
            throw refused("until", until.get().text(), "is not after from, " + from.get());
        }
        if (atMost.isPresent() && (atMost.getAsLong() < 1 || atMost.getAsLong() > MOST)) {
            throw refused("atMost", Long.toString(atMost.getAsLong()), "is outside 1 to " + MOST);
        }
    }

    private static ScheduleSyntaxException refused(String field, String text, String rule) {
        return ScheduleSyntaxException.of(text, ScheduleProblem.of(field, text, 0, rule));
    }

    /** Adds a calendar on whose days nothing is owed. */
    public Terms notOn(DayCalendar calendar) {
        return new Terms(plus(notOn, calendar), onlyOn, ifDayOff, window, from, until, atMost);
    }

    /** Adds a calendar outside of whose days nothing is owed. */
    public Terms onlyOn(DayCalendar calendar) {
        return new Terms(notOn, plus(onlyOn, calendar), ifDayOff, window, from, until, atMost);
    }

    private static List<DayCalendar> plus(List<DayCalendar> calendars, DayCalendar another) {
        List<DayCalendar> all = new ArrayList<>(calendars);
        all.add(another);
        return all;
    }

    /** Sets the calendars and what becomes of an occurrence on a day off. */
    public Terms withDays(List<DayCalendar> excluded, List<DayCalendar> required, IfDayOff policy) {
        return new Terms(excluded, required, policy, window, from, until, atMost);
    }

    /** Sets what becomes of an occurrence on a day off. */
    public Terms ifDayOff(IfDayOff policy) {
        return new Terms(notOn, onlyOn, policy, window, from, until, atMost);
    }

    /** Sets the part of the day in which occurrences are owed. */
    public Terms within(DailyWindow daily) {
        return new Terms(notOn, onlyOn, ifDayOff, Optional.of(daily), from, until, atMost);
    }

    /** Sets before when nothing is owed. */
    public Terms from(Moment beginning) {
        return new Terms(notOn, onlyOn, ifDayOff, window, Optional.of(beginning), until, atMost);
    }

    /** Sets from when on nothing is owed. */
    public Terms until(Moment end) {
        return new Terms(notOn, onlyOn, ifDayOff, window, from, Optional.of(end), atMost);
    }

    /** Sets how many occurrences are owed in all. */
    public Terms atMost(long occurrences) {
        return new Terms(notOn, onlyOn, ifDayOff, window, from, until, OptionalLong.of(occurrences));
    }

    boolean hasCalendars() {
        return !notOn.isEmpty() || !onlyOn.isEmpty();
    }

    WorkingDays workingDays() {
        return new WorkingDays(notOn, onlyOn);
    }

    Instant begin() {
        return from.map(Moment::instant).orElse(Instant.MIN);
    }

    Instant end() {
        return until.map(Moment::instant).orElse(Instant.MAX);
    }
}
