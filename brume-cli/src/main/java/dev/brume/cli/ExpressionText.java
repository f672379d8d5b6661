package dev.brume.cli;

import dev.brume.schedule.AfterEndSchedule;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.Durations;
import dev.brume.schedule.EverySchedule;
import dev.brume.schedule.OnceSchedule;
import dev.brume.schedule.RuleSchedule;
import dev.brume.schedule.Schedule;
import java.time.ZoneId;
import java.util.Locale;

/** Reads a schedule as it is written on a command line; a cron expression unless its first word says otherwise. */
final class ExpressionText {
    private ExpressionText() {}

    static Schedule parse(String text, ZoneId zone) {
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
