package dev.brume.schedule;

import java.time.DayOfWeek;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.EnumSet;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.stream.LongStream;
import org.jspecify.annotations.Nullable;

/**
 * A named set of days: holidays, or the days on which an office works.
 *
 * <p>A day belongs to it if its weekday does or its date is listed, unless its date is excepted. Immutable and
 * safe for use by many threads.
 *
 * @since 0.1.0
 */
public final class DayCalendar {
    /** The most dates a calendar may list or except, each. */
    public static final int MOST_DATES = 100_000;

    private final String name;
    private final int weekdays;
    private final long[] listed;
    private final long[] excepted;
    private final boolean missing;

    private DayCalendar(String name, int weekdays, long[] listed, long[] excepted, boolean missing) {
        this.name = name;
        this.weekdays = weekdays;
        this.listed = listed;
        this.excepted = excepted;
        this.missing = missing;
    }

    /**
     * Creates a calendar.
     *
     * @param name for messages
     * @param weekdays the days of every week that belong to it
     * @param dates further days
     * @param except days that do not belong to it all the same
     * @throws ScheduleSyntaxException if it would list or except more than {@value #MOST_DATES} dates
     */
    public static DayCalendar of(
            String name, Set<DayOfWeek> weekdays, Collection<LocalDate> dates, Collection<LocalDate> except) {
        Objects.requireNonNull(name, "name");
        int mask = 0;
        for (DayOfWeek day : weekdays) {
            mask |= 1 << day.getValue() % 7;
        }
        return new DayCalendar(name, mask, sorted(name, dates), sorted(name, except), false);
    }

    /** Creates a calendar of listed dates. */
    public static DayCalendar ofDates(String name, Collection<LocalDate> dates) {
        return of(name, Set.of(), dates, Set.of());
    }

    /** Stands for a calendar that nobody has defined yet: it excludes nothing and requires nothing. */
    public static DayCalendar missing(String name) {
        return new DayCalendar(name, 0, new long[0], new long[0], true);
    }

    /**
     * Reads days of the week as a cron field has them: {@code MON-FRI}, {@code SAT,SUN}.
     *
     * @throws ScheduleSyntaxException if the text is no such thing
     */
    public static Set<DayOfWeek> weekdays(String text) {
        List<ScheduleProblem> problems = new ArrayList<>();
        CronFieldSet set = new CronFieldReader(
                        CronField.DAY_OF_WEEK,
                        new CronParser.Word(text.strip().replaceAll("\\s*,\\s*", ","), 0),
                        problems)
                .read();
        if (problems.isEmpty() && set.hasSpecials()) {
            problems.add(ScheduleProblem.of("weekly", text, 0, "names no whole days of the week (expected MON-FRI)"));
        }
        if (!problems.isEmpty()) {
            throw new ScheduleSyntaxException(text, problems);
        }
        EnumSet<DayOfWeek> days = EnumSet.noneOf(DayOfWeek.class);
        for (int day = 0; day < 7; day++) {
            if (set.has(day)) {
                days.add(DayOfWeek.of(day == 0 ? 7 : day));
            }
        }
        return days;
    }

    private static long[] sorted(String name, Collection<LocalDate> dates) {
        long[] days = dates.stream()
                .mapToLong(LocalDate::toEpochDay)
                .sorted()
                .distinct()
                .toArray();
        if (days.length > MOST_DATES) {
            throw ScheduleSyntaxException.of(
                    name,
                    ScheduleProblem.of(
                            "calendar", name, 0, "has " + days.length + " dates (at most " + MOST_DATES + ")"));
        }
        return days;
    }

    /** {@return the name} */
    public String name() {
        return name;
    }

    /** {@return whether it only stands for one that is not defined} */
    public boolean isMissing() {
        return missing;
    }

    /** {@return whether a day belongs to it} */
    public boolean contains(LocalDate date) {
        return contains(date.toEpochDay());
    }

    boolean contains(long epochDay) {
        boolean belongs =
                (weekdays >> CivilDays.dayOfWeek(epochDay) & 1) != 0 || Arrays.binarySearch(listed, epochDay) >= 0;
        return belongs && (excepted.length == 0 || Arrays.binarySearch(excepted, epochDay) < 0);
    }

    /** {@return the days of the week that belong to it} */
    public Set<DayOfWeek> weekdays() {
        EnumSet<DayOfWeek> days = EnumSet.noneOf(DayOfWeek.class);
        for (DayOfWeek day : DayOfWeek.values()) {
            if ((weekdays >> day.getValue() % 7 & 1) != 0) {
                days.add(day);
            }
        }
        return days;
    }

    /** {@return the listed dates in order} */
    public List<LocalDate> dates() {
        return LongStream.of(listed).mapToObj(LocalDate::ofEpochDay).toList();
    }

    /** {@return the excepted dates in order} */
    public List<LocalDate> except() {
        return LongStream.of(excepted).mapToObj(LocalDate::ofEpochDay).toList();
    }

    /** {@return the last date it says anything about; empty if it lists and excepts none} */
    public Optional<LocalDate> lastDate() {
        long last = Math.max(
                listed.length == 0 ? Long.MIN_VALUE : listed[listed.length - 1],
                excepted.length == 0 ? Long.MIN_VALUE : excepted[excepted.length - 1]);
        return last == Long.MIN_VALUE ? Optional.empty() : Optional.of(LocalDate.ofEpochDay(last));
    }

    /** Equal if all its days and its name are. */
    @Override
    public boolean equals(@Nullable Object other) {
        return other instanceof DayCalendar that
                && name.equals(that.name)
                && missing == that.missing
                && weekdays == that.weekdays
                && Arrays.equals(listed, that.listed)
                && Arrays.equals(excepted, that.excepted);
    }

    @Override
    public int hashCode() {
        return Objects.hash(name, weekdays, Arrays.hashCode(listed), Arrays.hashCode(excepted));
    }

    @Override
    public String toString() {
        return name;
    }
}
