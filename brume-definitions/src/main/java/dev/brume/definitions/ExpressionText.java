package dev.brume.definitions;

import dev.brume.schedule.AfterEndSchedule;
import dev.brume.schedule.Counting;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.Days;
import dev.brume.schedule.Durations;
import dev.brume.schedule.EverySchedule;
import dev.brume.schedule.Fold;
import dev.brume.schedule.Gap;
import dev.brume.schedule.OnceSchedule;
import dev.brume.schedule.RuleSchedule;
import dev.brume.schedule.Schedule;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Locale;
import java.util.Optional;

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

    /**
     * {@return the schedule that a line says, with policies}
     *
     * @param gap what becomes of local times that are skipped; by default unless given
     * @param fold what becomes of local times that come twice; by default unless given
     * @param days how two restricted day fields combine; by default unless given
     * @param now from when intervals count
     * @throws IllegalArgumentException if it says none, or a policy does not belong to it
     */
    public static Schedule parse(
            String text, ZoneId zone, Optional<Gap> gap, Optional<Fold> fold, Optional<Days> days, Instant now) {
        Schedule schedule = parse(text, zone);
        if (schedule instanceof CronSchedule cron) {
            cron = gap.map(cron::withGap).orElse(cron);
            cron = fold.map(cron::withFold).orElse(cron);
            return days.map(cron::withDays).orElse(cron);
        }
        if (days.isPresent()) {
            throw new IllegalArgumentException("days belongs to a cron expression");
        }
        if (schedule instanceof RuleSchedule rule) {
            rule = gap.map(rule::withGap).orElse(rule);
            return fold.map(rule::withFold).orElse(rule);
        }
        if (gap.isPresent() || fold.isPresent()) {
            throw new IllegalArgumentException("gap and fold belong to a cron expression or a rule");
        }
        return schedule.countedFrom(Counting.from(now));
    }

    private static String afterFirstWord(String text) {
        return text.replaceFirst("^\\S+\\s+", "");
    }
}
