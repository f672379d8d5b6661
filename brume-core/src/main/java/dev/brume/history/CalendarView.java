package dev.brume.history;

import java.time.Instant;

/**
 * A calendar to look at.
 *
 * @param row its newest version
 * @param definedAt since when that is so
 * @param jobs how many live jobs use it
 */
public record CalendarView(CalendarRow row, Instant definedAt, int jobs) {}
