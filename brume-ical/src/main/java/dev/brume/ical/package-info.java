/**
 * iCalendar (RFC 5545) for schedules: recurrence rules, calendars of holidays from .ics files, and occurrences
 * written as .ics files.
 */
package dev.brume.ical;
