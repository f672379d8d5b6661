package dev.brume.insight.check;

import dev.brume.FollowUp;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.Durations;
import dev.brume.schedule.EverySchedule;
import dev.brume.schedule.LocalTimes;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.OnceSchedule;
import dev.brume.schedule.RuleSchedule;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.TermedSchedule;
import dev.brume.schedule.Terms;
import dev.brume.schedule.WallClockSchedule;
import dev.brume.schedule.Zones;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.zone.ZoneOffsetTransition;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * Finds what is allowed in a definition and will surprise people all the same.
 *
 * @since 0.1.0
 */
public final class Warnings {
    private static final Duration FAR = Duration.ofDays(366);
    private static final Duration AHEAD = Duration.ofDays(731);
    private static final long DAY = 86_400;

    /** A rule of so many times a day means "at this time of day"; a denser one goes on through clock changes. */
    private static final long FEW_A_DAY = 6;

    private final Job job;
    private final Instant now;
    private final boolean follows;
    private final List<String> found = new ArrayList<>();

    private Warnings(Job job, Instant now, boolean follows) {
        this.job = job;
        this.now = now;
        this.follows = follows;
    }

    /** {@return the warnings about a job that follows no other, as sentences} */
    public static List<String> of(Job job, Instant now) {
        return of(job, now, Set.of());
    }

    /**
     * {@return the warnings about a job, as sentences}
     *
     * @param followers the jobs that follow others
     */
    public static List<String> of(Job job, Instant now, Set<JobName> followers) {
        return job.enabled() ? new Warnings(job, now, followers.contains(job.name())).all() : List.of();
    }

    /** {@return the warnings about whether the schedules of a job ever fire, and no others} */
    public static List<String> whetherItFires(Job job, Instant now) {
        Warnings warnings = new Warnings(job, now, /* follows= */ false);
        if (job.enabled()) {
            job.schedules().forEach(warnings::whetherItFires);
        }
        return warnings.found;
    }

    /** {@return the jobs that follow the runs of others} */
    public static Set<JobName> followers(Collection<Job> jobs) {
        return jobs.stream()
                .flatMap(job -> job.followUps().stream())
                .map(FollowUp::job)
                .collect(Collectors.toSet());
    }

    private List<String> all() {
        if (job.schedules().isEmpty() && !follows) {
            found.add("has no schedule, so it never runs by itself");
        }
        for (Schedule schedule : job.schedules()) {
            whetherItFires(schedule);
            if (schedule.rule() instanceof CronSchedule cron && cron.eitherDayDecides()) {
                found.add("'" + schedule + "' restricts day-of-month and day-of-week, and a day that matches either is"
                        + " enough; say days: both (or days: either, to be plain about it)");
            }
            if (schedule.rule() instanceof RuleSchedule rule && !rule.namesItsStart()) {
                found.add(
                        "a rule does not name its own DTSTART, which is owed all the same and is the first that COUNT counts;"
                                + " let DTSTART be the first time that the rule names, or leave it out with an EXDATE");
            }
            zone(schedule);
            transitions(schedule);
            load(schedule);
        }
        job.calendars().forEach(this::calendar);
        return found;
    }

    private void whetherItFires(Schedule schedule) {
        if (schedule.goesByEnds()) {
            return;
        }
        Optional<Occurrence> next = schedule.next(now);
        boolean relative =
                schedule instanceof OnceSchedule once && once.occurrence().isEmpty();
        if (next.isEmpty() && !relative) {
            found.add(
                    schedule instanceof OnceSchedule
                            ? "'once: " + schedule + "' is already past, so it never runs"
                            : schedule.previous(now).isPresent()
                                    ? "'" + schedule + "' has no occurrence left: its last was "
                                            + schedule.previous(now).get().local()
                                    : "'" + schedule + "' never fires: its terms leave no occurrence");
        } else if (next.isPresent()
                && Duration.between(now, next.get().instant()).compareTo(FAR) > 0) {
            long days = Duration.between(now, next.get().instant()).toDays();
            found.add("'" + schedule + "' is due next in " + days + " days, on "
                    + next.get().local().toLocalDate() + "; is the year right?");
        }
    }

    private void zone(Schedule schedule) {
        boolean local = schedule instanceof WallClockSchedule || schedule instanceof TermedSchedule;
        Zones.regionInsteadOf(schedule.zone(), now).filter(region -> local).ifPresent(region -> {
            String what = schedule.zone().getRules().isFixedOffset()
                    ? " is a fixed offset, which knows no summer time"
                    : " is an abbreviation and names no place";
            found.add("zone " + schedule.zone() + what + "; say the region whose clocks are meant, such as " + region
                    + ", or UTC");
        });
    }

    /** Days on which clocks change: those on which it runs oftener than its rule says, or not at all. */
    private void transitions(Schedule schedule) {
        if (!(schedule.rule() instanceof WallClockSchedule rule)) {
            return;
        }
        ZoneId zone = schedule.zone();
        List<String> twice = new ArrayList<>();
        List<String> never = new ArrayList<>();
        for (ZoneOffsetTransition change = zone.getRules().nextTransition(now);
                change != null && change.getInstant().isBefore(now.plus(AHEAD));
                change = zone.getRules().nextTransition(change.getInstant())) {
            if (!rule.clock().isTouchedBy(change)) {
                continue;
            }
            LocalDate date = change.getDateTimeBefore().toLocalDate();
            Instant start = date.atStartOfDay(zone).toInstant();
            Instant end = date.plusDays(1).atStartOfDay(zone).toInstant();
            long named = isOff(schedule, date) ? 0 : named(rule.clock().times(), date);
            if (named > 0 && named <= FEW_A_DAY && schedule.count(start, end) > named) {
                twice.add(date.toString());
            } else if (named > 0 && rule.count(start, end) == 0) {
                never.add(date.toString());
            }
        }
        boolean stated = rule.statedGap().isPresent() || rule.statedFold().isPresent();
        String why = stated ? " (as its gap and fold policies say)" : "; state gap and fold to choose";
        if (!twice.isEmpty()) {
            found.add("'" + schedule + "' runs twice on " + some(twice) + ", when clocks change" + why);
        }
        if (!never.isEmpty()) {
            found.add("'" + schedule + "' does not run at all on " + some(never) + ", when clocks change" + why);
        }
    }

    /** {@return whether the terms leave nothing of a day, whatever its clocks do} */
    private static boolean isOff(Schedule schedule, LocalDate date) {
        if (!(schedule instanceof TermedSchedule termed)) {
            return false;
        }
        Terms terms = termed.terms();
        ZoneId zone = schedule.zone();
        return terms.notOn().stream().anyMatch(calendar -> calendar.contains(date))
                || terms.onlyOn().stream().anyMatch(calendar -> !calendar.isMissing() && !calendar.contains(date))
                || terms.from()
                        .filter(from -> date.isBefore(LocalDate.ofInstant(from.instant(), zone)))
                        .isPresent()
                || terms.until()
                        .filter(until -> date.isAfter(LocalDate.ofInstant(until.instant(), zone)))
                        .isPresent();
    }

    private static long named(LocalTimes times, LocalDate date) {
        long start = date.atStartOfDay().toEpochSecond(ZoneOffset.UTC);
        return times.count(start, start + DAY);
    }

    private static String some(List<String> dates) {
        return dates.size() <= 2
                ? String.join(" and ", dates)
                : dates.get(0) + " and " + (dates.size() - 1) + " more days within two years";
    }

    private void load(Schedule schedule) {
        Duration smallest = schedule.smallestInterval();
        if (smallest.compareTo(Duration.ofMinutes(1)) < 0 && !schedule.goesByEnds()) {
            Instant from = schedule.next(now).map(Occurrence::instant).orElse(now);
            long perDay = schedule.count(from, from.plus(Duration.ofDays(1)));
            if (perDay > 1) {
                String often = schedule instanceof EverySchedule ? "runs every " : "runs as often as every ";
                found.add("'" + schedule + "' " + often + Durations.format(smallest) + ", "
                        + String.format(Locale.ROOT, "%,d", perDay) + " times a day; is that much meant?");
            }
        }
    }

    private void calendar(DayCalendar calendar) {
        if (calendar.isMissing()) {
            found.add("calendar '" + calendar.name() + "' is not defined here; until it is, its days count as usual");
            return;
        }
        LocalDate endOfNextMonth = LocalDate.ofInstant(now, ZoneOffset.UTC)
                .withDayOfMonth(1)
                .plusMonths(2)
                .minusDays(1);
        calendar.lastDate()
                .filter(last -> !last.isAfter(endOfNextMonth))
                .ifPresent(last -> found.add("calendar '" + calendar.name() + "' has no dates after " + last
                        + "; add those of the time to come"));
    }
}
