/**
 * iCalendar (RFC 5545) for schedules: recurrence rules, calendars of holidays from .ics files, and occurrences
 * written as .ics files.
 */
@NullMarked
package dev.brume.ical;

import org.jspecify.annotations.NullMarked;
