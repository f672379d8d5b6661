package dev.brume.history;

import dev.brume.CalendarName;
import dev.brume.schedule.DayCalendar;

/**
 * A version of a calendar; never changed once written.
 *
 * @param name its name
 * @param number counted from 1
 * @param days what it holds
 * @param source where it came from
 * @since 0.1.0
 */
public record CalendarRow(CalendarName name, int number, DayCalendar days, String source) {}
