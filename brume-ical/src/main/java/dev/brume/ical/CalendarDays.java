package dev.brume.ical;

import java.time.LocalDate;
import java.util.Collections;
import java.util.List;
import java.util.SortedSet;
import java.util.TreeSet;

/**
 * What a calendar file says.
 *
 * @param days the days that its events cover
 * @param warnings what in it was not understood, by line
 * @since 0.1.0
 */
public record CalendarDays(SortedSet<LocalDate> days, List<Warning> warnings) {
    /** Creates a copy of both. */
    public CalendarDays {
        days = Collections.unmodifiableSortedSet(new TreeSet<>(days));
        warnings = List.copyOf(warnings);
    }
}
