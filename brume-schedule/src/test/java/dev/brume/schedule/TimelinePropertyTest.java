package dev.brume.schedule;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.zone.ZoneOffsetTransition;
import java.util.ArrayList;
import java.util.Collections;
import java.util.EnumSet;
import java.util.List;
import java.util.Optional;
import java.util.SplittableRandom;
import java.util.TreeSet;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

/** Random schedules under random terms, against doing the same to a list of all occurrences. */
class TimelinePropertyTest {
    private static final List<String> ZONES =
            ZoneId.getAvailableZoneIds().stream().sorted().toList();
    private static final String[] EXPRESSIONS = {
        "*/20 * * * *",
        "30 1 * * *",
        "0 0 * * *",
        "15 2,3 * * *",
        "*/40 0-4 * * *",
        "0 12 * * 1-5",
        "5 */3 * * *",
        "0 9 L * *",
        "*/30 * * * * *",
        "45 23 1,15 * *"
    };

    private final long seed = Long.getLong("brume.property.seed", 20261124);
    private final SplittableRandom random = new SplittableRandom(seed);

    private CronSchedule cron(ZoneId zone) {
        return cron(zone, EXPRESSIONS.length);
    }

    /** One of the first few expressions, which are the denser ones. */
    private CronSchedule cron(ZoneId zone, int expressions) {
        CronSchedule cron = CronSchedule.parse(EXPRESSIONS[random.nextInt(expressions)], zone);
        cron = random.nextInt(3) == 0 ? cron.withGap(Gap.values()[random.nextInt(2)]) : cron;
        return random.nextInt(3) == 0 ? cron.withFold(Fold.values()[random.nextInt(3)]) : cron;
    }

    private ZoneId zone() {
        return ZoneId.of(ZONES.get(random.nextInt(ZONES.size())));
    }

    /** Two days before a change of clocks between 1970 and 2100, or anywhere if the zone has none. */
    private Instant near(ZoneId zone) {
        Instant at = Instant.ofEpochSecond(random.nextLong(0, 4_102_444_800L));
        ZoneOffsetTransition transition = zone.getRules().nextTransition(at);
        return (transition == null ? at : transition.getInstant())
                .minusSeconds(2 * 86_400 + random.nextInt(7200))
                .plusNanos(random.nextInt(3) * 500_000_000L);
    }

    private static List<Instant> forwards(Timeline timeline, Instant from, Instant until) {
        return timeline.between(from, until).map(Occurrence::instant).toList();
    }

    private static void agree(String name, Timeline timeline, Instant from, Instant until, List<Instant> expected) {
        assertThat(forwards(timeline, from, until)).as(name + " forwards").isEqualTo(expected);
        assertThat(expected).as(name + " rises").isSorted().doesNotHaveDuplicates();
        List<Instant> backwards = new ArrayList<>();
        for (Optional<Occurrence> at = timeline.previous(until);
                at.isPresent() && !at.get().instant().isBefore(from);
                at = timeline.previous(at.get().instant())) {
            backwards.add(at.get().instant());
        }
        Collections.reverse(backwards);
        assertThat(backwards).as(name + " backwards").isEqualTo(expected);
        assertThat(timeline.count(from, until)).as(name + " counted").isEqualTo(expected.size());
    }

    @Test
    void aWindowLeavesWhatLiesInItByTheWallClock() {
        for (int i = 0; i < 400; i++) {
            ZoneId zone = zone();
            Schedule rule = random.nextInt(3) == 0
                    ? EverySchedule.of(Duration.ofSeconds(random.nextInt(600, 9000)))
                            .withZone(zone)
                    : cron(zone, 6);
            LocalTime from = LocalTime.ofSecondOfDay(random.nextInt(96) * 900);
            LocalTime until = LocalTime.ofSecondOfDay(random.nextInt(96) * 900);
            if (from.equals(until)) {
                continue;
            }
            DailyWindow window = new DailyWindow(from, until);
            Instant begin = near(zone);
            Instant end = begin.plus(Duration.ofDays(4));
            List<Instant> expected = forwards(rule, begin, end).stream()
                    .filter(instant -> inside(window, instant.atZone(zone).toLocalTime()))
                    .toList();
            String name = "seed " + seed + ", case " + i + ": " + rule + " in " + zone + " within " + window;
            agree(name, rule.with(Terms.NONE.within(window)), begin, end, expected);
        }
    }

    private static boolean inside(DailyWindow window, LocalTime time) {
        boolean wraps = !window.until().isAfter(window.from());
        boolean afterStart = !time.isBefore(window.from());
        boolean beforeEnd = time.isBefore(window.until());
        return wraps ? afterStart || beforeEnd : afterStart && beforeEnd;
    }

    @Test
    void calendarsLeaveOutOrMoveByTheDateTheRuleNames() {
        for (int i = 0; i < 400; i++) {
            ZoneId zone = zone();
            Instant begin = near(zone);
            Instant end = begin.plus(Duration.ofDays(6));
            DayCalendar off = offDays(begin);
            IfDayOff policy = IfDayOff.values()[random.nextInt(3)];
            CronSchedule rule = cron(zone);
            List<Instant> expected = naive(rule, off, policy, begin, end);
            String name = "seed " + seed + ", case " + i + ": " + rule + " in " + zone + ", " + policy + " "
                    + off.dates() + off.weekdays();
            agree(name, rule.with(Terms.NONE.notOn(off).ifDayOff(policy)), begin, end, expected);
        }
    }

    private DayCalendar offDays(Instant around) {
        LocalDate first = LocalDate.ofInstant(around, ZoneOffset.UTC).minusDays(20);
        List<LocalDate> dates = Stream.generate(() -> first.plusDays(random.nextInt(45)))
                .limit(random.nextInt(20))
                .toList();
        EnumSet<DayOfWeek> weekly = EnumSet.noneOf(DayOfWeek.class);
        if (random.nextBoolean()) {
            weekly.addAll(EnumSet.of(DayOfWeek.SATURDAY, DayOfWeek.SUNDAY));
        }
        return DayCalendar.of("off", weekly, dates, List.of());
    }

    /** Every local second that the rule names, moved, then put on the zone's time line. */
    private static List<Instant> naive(
            CronSchedule rule, DayCalendar off, IfDayOff policy, Instant begin, Instant end) {
        TreeSet<Instant> found = new TreeSet<>();
        LocalTimes times = rule.clock().times();
        long first = begin.getEpochSecond() - 35 * 86_400L;
        long last = end.getEpochSecond() + 35 * 86_400L;
        for (long local = times.next(first); local != LocalTimes.NONE && local < last; local = times.next(local + 1)) {
            LocalDateTime named = LocalDateTime.ofEpochSecond(local, 0, ZoneOffset.UTC);
            LocalDateTime owed = named;
            while (policy != IfDayOff.SKIP && off.contains(owed.toLocalDate())) {
                owed = owed.plusDays(policy == IfDayOff.NEXT ? 1 : -1);
            }
            if (!off.contains(owed.toLocalDate())) {
                found.addAll(NaiveCron.instants(rule, rule.zone(), owed));
            }
        }
        return found.subSet(begin, end).stream().toList();
    }

    @Test
    void aBeginningAndAnEndCutTheListOnBothSides() {
        for (int i = 0; i < 200; i++) {
            ZoneId zone = zone();
            Schedule rule = cron(zone);
            Instant begin = near(zone);
            Instant end = begin.plus(Duration.ofDays(4));
            Instant from = begin.plus(Duration.ofMinutes(random.nextInt(3000)));
            Instant until = from.plus(Duration.ofMinutes(1 + random.nextInt(3000)));
            List<Instant> expected = forwards(rule, begin, end).stream()
                    .filter(instant -> !instant.isBefore(from) && instant.isBefore(until))
                    .toList();
            Terms terms = Terms.NONE.from(Moment.at(from, zone)).until(Moment.at(until, zone));
            agree("seed " + seed + ", case " + i + ": " + rule + " in " + zone, rule.with(terms), begin, end, expected);
        }
    }

    @Test
    void aGridIsOwedOnTheDaysThatAreLeft() {
        for (int i = 0; i < 200; i++) {
            ZoneId zone = zone();
            Schedule rule = EverySchedule.of(Duration.ofSeconds(random.nextInt(600, 90_000)))
                    .withZone(zone);
            Instant begin = near(zone);
            Instant end = begin.plus(Duration.ofDays(9));
            DayCalendar off = offDays(begin);
            List<Instant> expected = forwards(rule, begin, end).stream()
                    .filter(instant -> !off.contains(LocalDate.ofInstant(instant, zone)))
                    .toList();
            String name = "seed " + seed + ", case " + i + ": " + rule + " in " + zone + " without " + off.dates();
            agree(name, rule.with(Terms.NONE.notOn(off)), begin, end, expected);
        }
    }

    @Test
    void aUnionIsTheMergedList() {
        for (int i = 0; i < 500; i++) {
            ZoneId zone = zone();
            Schedule third = random.nextBoolean() ? EverySchedule.of(Duration.ofHours(1)) : cron(zone);
            List<Schedule> parts = List.of(cron(zone), cron(zone()), third);
            Instant begin = near(zone);
            Instant end = begin.plus(Duration.ofDays(3));
            TreeSet<Instant> merged = new TreeSet<>();
            parts.forEach(part -> merged.addAll(forwards(part, begin, end)));
            agree("seed " + seed + ", case " + i + ": " + parts, Union.of(parts), begin, end, List.copyOf(merged));
        }
    }

    @Test
    void aSpreadShiftsEverythingByOneOffsetBelowItsWidth() {
        for (int i = 0; i < 200; i++) {
            ZoneId zone = zone();
            CronSchedule rule = cron(zone);
            Duration offset = Spread.offset("main/job-" + i, Duration.ofSeconds(1 + random.nextInt(3000)));
            Instant begin = near(zone);
            Instant end = begin.plus(Duration.ofDays(2));
            List<Instant> expected = forwards(rule, begin.minus(offset), end.minus(offset)).stream()
                    .map(instant -> instant.plus(offset))
                    .toList();
            agree("seed " + seed + ", case " + i, Spread.of(rule, offset), begin, end, expected);
        }
    }

    @Test
    void offsetsAreStableAndEvenlySpread() {
        assertThat(Spread.offset("main/tide-tables", Duration.ofMinutes(10)))
                .isEqualTo(Spread.offset("main/tide-tables", Duration.ofMinutes(10)))
                .hasToString("PT2M54S");
        int[] counts = new int[60];
        for (int i = 0; i < 60_000; i++) {
            counts[(int) Spread.offset("main/job-" + i, Duration.ofMinutes(1)).toSeconds()]++;
        }
        double chiSquare = 0;
        for (int count : counts) {
            chiSquare += (count - 1000) * (count - 1000) / 1000.0;
        }
        // 59 degrees of freedom: beyond 98 in one of a thousand.
        assertThat(chiSquare).isLessThan(98);
    }

    @Test
    void aDenseExpressionIsCountedOverCenturiesWithoutLookingAtEach() {
        CronSchedule seconds = CronSchedule.parse("* * * * * *", ZoneId.of("Europe/Lisbon"));
        Instant begin = Instant.parse("1970-01-01T00:00:00Z");
        Instant end = Instant.parse("2570-01-01T00:00:00Z");

        assertThat(seconds.count(begin, end))
                .isEqualTo(Duration.between(begin, end).toSeconds());
        Schedule office = seconds.with(Terms.NONE.within(DailyWindow.parse("08:00-08:01")));
        assertThat(office.count(begin, Instant.parse("2070-01-01T00:00:00Z"))).isEqualTo(36_525L * 60);
    }
}
