package dev.brume.history;

import java.time.Instant;

/**
 * A calendar to look at.
 *
 * @param row its newest version
 * @param definedAt since when that is so
 * @param jobs how many live jobs use it
 * @since 0.1.0
 */
public record CalendarView(CalendarRow row, Instant definedAt, int jobs) {}
