package dev.brume.definitions;

import dev.brume.schedule.AfterEndSchedule;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.Durations;
import dev.brume.schedule.EverySchedule;
import dev.brume.schedule.OnceSchedule;
import dev.brume.schedule.RuleSchedule;
import dev.brume.schedule.Schedule;
import java.time.ZoneId;
import java.util.Locale;

/**
 * Reads a schedule as people write it in one line; a cron expression unless its first word says otherwise: {@code every 90m}, {@code after end
 * 10m}, {@code in 10m}, {@code 2027-05-14T06:00}, {@code DTSTART:... RRULE:...}. Stateless.
 *
 * @since 0.1.0
 */
public final class ExpressionText {
    private ExpressionText() {}

    /**
     * {@return the schedule that a line says}
     *
     * @param zone in which it is evaluated, unless it names one
     * @throws IllegalArgumentException if it says none
     */
    public static Schedule parse(String text, ZoneId zone) {
        String stripped = text.strip();
        String lower = stripped.toLowerCase(Locale.ROOT);
        if (lower.matches("every\\s.*")) {
            return EverySchedule.of(Durations.parse(afterFirstWord(stripped))).withZone(zone);
        }
        if (lower.matches("after\\s+end\\s.*")) {
            return AfterEndSchedule.of(Durations.parse(afterFirstWord(afterFirstWord(stripped))), zone);
        }
        if (lower.matches("in\\s.*") || stripped.matches("\\d{4}-\\d{2}-\\d{2}.*")) {
            return OnceSchedule.parse(stripped, zone);
        }
        if (lower.startsWith("dtstart") || lower.startsWith("rrule")) {
            return RuleSchedule.parse(stripped.replaceAll("\\s+(?=(?i)(DTSTART|RRULE|RDATE|EXDATE)[;:])", "\n"), zone);
        }
        return CronSchedule.parse(text, zone);
    }

    private static String afterFirstWord(String text) {
        return text.replaceFirst("^\\S+\\s+", "");
    }
}
