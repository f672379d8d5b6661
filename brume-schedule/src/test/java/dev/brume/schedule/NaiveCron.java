package dev.brume.schedule;

import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.zone.ZoneOffsetTransition;
import java.util.ArrayList;
import java.util.List;
import java.util.TreeSet;

/** Finds occurrences the slow way: looks at every local minute, one after the other, and asks java.time. */
final class NaiveCron {
    private NaiveCron() {}

    /** Occurrences of an expression without seconds whose fields are already sets of allowed values. */
    static List<Instant> between(CronSchedule cron, CronPattern pattern, Instant from, Instant until) {
        ZoneId zone = cron.zone();
        TreeSet<Instant> found = new TreeSet<>();
        LocalDateTime local = LocalDateTime.ofInstant(from, ZoneOffset.UTC)
                .minusDays(2)
                .withSecond(0)
                .withNano(0);
        LocalDateTime end = LocalDateTime.ofInstant(until, ZoneOffset.UTC).plusDays(2);
        for (; local.isBefore(end); local = local.plusMinutes(1)) {
            if (matches(pattern, local)) {
                found.addAll(instants(cron, zone, local));
            }
        }
        List<Instant> inside = new ArrayList<>(found);
        inside.removeIf(instant -> instant.isBefore(from) || !instant.isBefore(until));
        return inside;
    }

    private static boolean matches(CronPattern pattern, LocalDateTime local) {
        boolean time = pattern.set(CronField.MINUTE).has(local.getMinute())
                && pattern.set(CronField.HOUR).has(local.getHour())
                && pattern.set(CronField.MONTH).has(local.getMonthValue());
        CronFieldSet byMonth = pattern.set(CronField.DAY_OF_MONTH);
        CronFieldSet byWeek = pattern.set(CronField.DAY_OF_WEEK);
        boolean monthDay = byMonth.has(local.getDayOfMonth());
        boolean weekDay = byWeek.has(local.getDayOfWeek().getValue() % 7);
        boolean either = pattern.days() == Days.EITHER && byMonth.restricted() && byWeek.restricted();
        return time && (either ? monthDay || weekDay : monthDay && weekDay);
    }

    static List<Instant> instants(CronSchedule cron, ZoneId zone, LocalDateTime local) {
        ZoneOffsetTransition transition = zone.getRules().getTransition(local);
        if (transition == null) {
            return List.of(local.atZone(zone).toInstant());
        }
        if (transition.isGap()) {
            return cron.gap() == Gap.SKIP ? List.of() : List.of(transition.getInstant());
        }
        Instant first = local.toInstant(transition.getOffsetBefore());
        Instant second = local.toInstant(transition.getOffsetAfter());
        return switch (cron.fold()) {
            case FIRST -> List.of(first);
            case LAST -> List.of(second);
            case BOTH -> List.of(first, second);
        };
    }
}
