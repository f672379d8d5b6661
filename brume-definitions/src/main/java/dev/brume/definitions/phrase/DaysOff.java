package dev.brume.definitions.phrase;

import dev.brume.CalendarName;
import dev.brume.schedule.IfDayOff;
import java.util.Comparator;
import java.util.List;

/**
 * On which days nothing shall happen, and what becomes of what falls on them. Immutable.
 *
 * @param calendars whose days are off, by the names that definitions say; none if there are no such days
 * @param move what becomes of it
 * @since 0.1.0
 */
public record DaysOff(List<String> calendars, IfDayOff move) {
    /** No such days. */
    public static final DaysOff NONE = new DaysOff(List.of(), IfDayOff.SKIP);

    /** Checks the names. */
    public DaysOff {
        calendars =
                calendars.stream().distinct().sorted(Comparator.naturalOrder()).toList();
        for (String name : calendars) {
            if (!CalendarName.isReference(name)) {
                throw new IllegalArgumentException("'" + name + "' is not the name of a calendar");
            }
        }
        if (calendars.isEmpty() && move != IfDayOff.SKIP) {
            throw new IllegalArgumentException("moving takes the name of a calendar whose days are off");
        }
    }
}
