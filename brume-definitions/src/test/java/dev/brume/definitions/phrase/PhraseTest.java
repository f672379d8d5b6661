package dev.brume.definitions.phrase;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.FollowUp;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.definitions.DefinitionFile;
import dev.brume.definitions.JsonText;
import dev.brume.internal.document.JobDocument;
import dev.brume.schedule.DailyWindow;
import dev.brume.schedule.Fold;
import dev.brume.schedule.Gap;
import dev.brume.schedule.IfDayOff;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.Schedule;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.Month;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.temporal.TemporalAdjusters;
import java.time.zone.ZoneOffsetTransition;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.SplittableRandom;
import java.util.TreeSet;
import java.util.function.Function;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class PhraseTest {
    private static final ZoneId LISBON = ZoneId.of("Europe/Lisbon");
    private static final List<ZoneId> ZONES = Stream.of(
                    "UTC", "Atlantic/Azores", "Europe/Lisbon", "America/Halifax", "Australia/Lord_Howe", "Asia/Beirut")
            .map(ZoneId::of)
            .toList();
    private static final int CHOICES = 5_000;

    /** No more days in a row are off by chance. */
    private static final int FARTHEST_MOVE = 12;

    // What it makes.

    private static Schedule only(String cron) {
        return read("{cron: '" + cron + "', zone: Europe/Lisbon}").get(0);
    }

    private static List<Schedule> read(String when) {
        return job("{when: " + when + ", work: {handler: dues}}").schedules();
    }

    private static Job job(String document) {
        return DefinitionFile.parseJob("document", JobName.parse("dues"), document);
    }

    private static String expressions(Pattern pattern) {
        return Phrase.of(pattern, LISBON).schedules().stream()
                .map(Object::toString)
                .collect(Collectors.joining(" + "));
    }

    @Test
    void whatItMakesIsTheShortestHonestForm() {
        OnDays each = new OnDays.EachDay();
        OnDays working = new OnDays.WorkingDays();
        assertThat(expressions(Pattern.atTimes(each, times("04:15")))).isEqualTo("15 4 * * *");
        assertThat(expressions(Pattern.atTimes(working, times("08:00", "08:30", "17:00", "17:30"))))
                .isEqualTo("0,30 8,17 * * MON-FRI");
        assertThat(expressions(Pattern.atTimes(each, times("08:00", "17:30")))).isEqualTo("0 8 * * * + 30 17 * * *");
        assertThat(expressions(Pattern.atTimes(
                        new OnDays.WeekdayOfMonth(5, DayOfWeek.FRIDAY, OnDays.ALL_MONTHS), times("17:00"))))
                .isEqualTo("0 17 * * 5L");
        assertThat(expressions(Pattern.atTimes(
                        new OnDays.WeekdayOfMonth(1, DayOfWeek.SUNDAY, Set.of(Month.MARCH, Month.JUNE)),
                        times("17:00"))))
                .isEqualTo("0 17 * MAR,JUN SUN#1");
        assertThat(expressions(Pattern.atTimes(new OnDays.WorkingDayOfMonth(true, OnDays.ALL_MONTHS), times("06:00"))))
                .isEqualTo("0 6 LW * *");
        assertThat(expressions(Pattern.atTimes(
                        new OnDays.DaysOfMonth(new TreeSet<>(Set.of(1, 15, OnDays.LAST_DAY)), OnDays.ALL_MONTHS),
                        times("06:00"))))
                .isEqualTo("0 6 1,15,L * *");
        assertThat(expressions(Pattern.byTheClock(working, 15, Optional.of(DailyWindow.parse("08:00-18:00")))))
                .isEqualTo("*/15 8-17 * * MON-FRI");
        assertThat(expressions(Pattern.byTheClock(each, 120, Optional.empty()))).isEqualTo("0 */2 * * *");
        assertThat(expressions(new Pattern.FixedInterval(Duration.ofMinutes(90), Optional.empty())))
                .isEqualTo("every 1h30m");
        assertThat(expressions(Pattern.atTimes(
                        new OnDays.EveryFewWeeks(2, Set.of(DayOfWeek.FRIDAY), LocalDate.of(2026, 12, 4)),
                        times("17:00"))))
                .isEqualTo("DTSTART:20261204T170000 RRULE:FREQ=WEEKLY;INTERVAL=2;BYDAY=FR");
        assertThat(expressions(new Pattern.After(JobName.parse("tide-tables"), FollowUp.On.SUCCESS)))
                .isEmpty();
    }

    private static TreeSet<LocalTime> times(String... texts) {
        return Stream.of(texts).map(LocalTime::parse).collect(Collectors.toCollection(TreeSet::new));
    }

    // What it does not show.

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "{cron: '0 9 13 * 5', zone: UTC, days: both} | restricts both",
                "{cron: '*/10 * * * * *', zone: UTC} | goes to the second",
                "{cron: '5 * * * *', zone: UTC} | does not come at even intervals",
                "{cron: '0 */5 * * *', zone: UTC} | does not come at even intervals",
                "{cron: '0 9 L-3 * *', zone: UTC} | counts days from the end",
                "{cron: '0 9 * * 5L,1L', zone: UTC} | several weekdays of a month",
                "{cron: '0 9 * 6 MON', zone: UTC} | weekdays of some months",
                "{cron: '0 9 * * *', zone: UTC, atMost: 3} | a limit",
                "{cron: '0 9 * * *', zone: UTC, onlyOn: [season]} | of a calendar only",
                "{cron: '0 9 * * *', zone: UTC, window: 08:00-18:30} | daily window",
                "{every: 1h, anchor: '2026-01-01T00:20:00Z'} | from a time of its own",
                "{afterEnd: 10m} | its own runs end",
                "{once: in 10m} | counts from when it is defined",
                "{once: '2027-05-14T06:00:00Z'} | an instant",
                "{rule: 'RRULE:FREQ=YEARLY', zone: UTC} | more in it",
                "[{cron: '0 9 * * *', zone: UTC}, {cron: '0 9 * * 1', zone: UTC}] | differ in more than the times",
                "[{cron: '0 9 * * *', zone: UTC}, {cron: '0 8 * * *', zone: Europe/Lisbon}] | several zones"
            })
    void whatThePartsDoNotHaveStaysAsItIsWritten(String when, String why) {
        String text = when.contains("RRULE") ? when.replace("RRULE", "DTSTART:20260101T090000\\nRRULE") : when;
        Phrase.Reading reading =
                Phrase.read(read(text.replace("'DTSTART", "\"DTSTART").replace("YEARLY'", "YEARLY\"")));
        assertThat(reading.phrase()).isEmpty();
        assertThat(reading.why()).contains(why);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "0 17 * * 5 | 0 17 * * FRI",
                "0 17 * * 1-5 | 0 17 * * MON-FRI",
                "@daily | 0 0 * * *",
                "@monthly | 0 0 1 * *",
                "0,15,30,45 * * * * | */15 * * * *",
                "0 8-17/3 ? * SUN-SAT | 0 8,11,14,17 * * *",
                "0 9 1 MAR-MAY,JUL * | 0 9 1 MAR-MAY,JUL *"
            })
    void whatPeopleWriteOtherwiseIsUnderstood(String written, String made) {
        Phrase phrase = Phrase.read(List.of(only(written))).phrase().orElseThrow();
        assertThat(phrase.schedules()).containsExactly(only(made));
    }

    @Test
    void whatDoesNotGoTogetherIsRefused() {
        assertThatThrownBy(() -> Pattern.byTheClock(new OnDays.EachDay(), 25, Optional.empty()))
                .hasMessageContaining("every 25 minutes does not come out even");
        assertThatThrownBy(() ->
                        Pattern.byTheClock(new OnDays.EachDay(), 30, Optional.of(DailyWindow.parse("08:10-08:20"))))
                .hasMessageContaining("no time of every 30 minutes");
        assertThatThrownBy(() -> new OnDays.DaysOfMonth(new TreeSet<>(Set.of(31)), Set.of(Month.FEBRUARY)))
                .hasMessageContaining("has a day 31");
        assertThatThrownBy(() -> new DaysOff(List.of(), IfDayOff.NEXT)).hasMessageContaining("name of a calendar");
    }

    // What people type.

    private static final Instant NOW = Instant.parse("2026-12-01T12:00:00Z");

    private static Phrase typed(Map<String, Object> parts) {
        List<String> wrong = new ArrayList<>();
        Optional<Phrase> phrase =
                PhraseParts.read("/form/when", parts, NOW, (pointer, text) -> wrong.add(pointer + ": " + text));
        assertThat(wrong).isEmpty();
        return phrase.orElseThrow();
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "8 | 08:00",
                "8, 12.30 and 5pm | 08:00, 12:30, 17:00",
                "17h30 | 17:30",
                "5:30 p.m. | 17:30",
                "noon; midnight | 00:00, 12:00",
                "12 am, 12pm | 00:00, 12:00",
                "8 9 10:15 | 08:00, 09:00, 10:15"
            })
    void timesAreTypedAsPeopleTypeThem(String typed, String times) {
        Phrase phrase = typed(Map.of("pattern", "times", "days", "each", "times", typed, "zone", "Europe/Lisbon"));
        assertThat(PhraseParts.write(phrase)).containsEntry("times", times);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "2026-12-31 17:00 | 2026-12-31T17:00",
                "tomorrow 5pm | 2026-12-02T17:00",
                "tomorrow at 5 pm | 2026-12-02T17:00",
                "Friday 8:15 | 2026-12-04T08:15",
                "31st Dec 2026, 17h | 2026-12-31T17:00",
                "2027-03-28T02:30 | 2027-03-28T02:30"
            })
    void datesToo(String typed, String local) {
        Phrase phrase = typed(Map.of("pattern", "once", "at", typed, "zone", "Europe/Lisbon"));
        assertThat(phrase.pattern()).isEqualTo(new Pattern.Once(LocalDateTime.parse(local)));
    }

    @Test
    void whatIsWrongIsSaidAtItsPart() {
        Map<String, String> wrong = new LinkedHashMap<>();
        Map<String, Object> parts = Map.of(
                "pattern", "times", "days", "weekdays", "weekdays", List.of(), "times", "25, 8", "zone", "Lisbon");
        assertThat(PhraseParts.read("/when", parts, NOW, wrong::put)).isEmpty();
        assertThat(wrong).containsOnlyKeys("/when/zone", "/when/weekdays", "/when/times");
        assertThat(wrong.get("/when/times")).startsWith("'25' is not a time of the day");
        assertThat(wrong.get("/when/weekdays")).isEqualTo("no weekday is chosen");
        wrong.clear();
        assertThat(PhraseParts.read("/when", Map.of("patern", "times"), NOW, wrong::put))
                .isEmpty();
        assertThat(wrong.get("/when/patern")).contains("did you mean pattern?");
        assertThat(wrong).containsKeys("/when/pattern", "/when/zone");
    }

    // Any choice: there and back, and the occurrences of its document.

    @Test
    void anyChoiceComesBackAndOwesWhatItSays() {
        for (int i = 0; i < CHOICES; i++) {
            long seed = 20261201L * 10_000 + i;
            Choices choices = new Choices(new SplittableRandom(seed));
            Phrase phrase = choices.phrase();
            Job job = throughADocument(phrase, choices.holidays);
            String which = "seed " + seed + ": " + phrase + " as " + job.schedules();
            assertThat(Phrase.read(job.schedules()).phrase()).as(which).contains(phrase);
            assertThat(typed(PhraseParts.write(phrase))).as(which).isEqualTo(phrase);
            Instant from = choices.begin(phrase);
            Instant until = from.plus(choices.length(phrase));
            List<Instant> owed;
            try (Stream<Occurrence> all = job.timeline().between(from, until)) {
                owed = all.map(Occurrence::instant).toList();
            }
            assertThat(owed).as(which).isEqualTo(Oracle.owed(phrase, choices.holidays, from, until));
        }
    }

    private static Job throughADocument(Phrase phrase, Set<LocalDate> holidays) {
        Job.Builder builder = Job.named(JobName.parse("harbour/dues")).handler("dues");
        phrase.schedules().forEach(builder::schedule);
        Map<String, Object> document = new LinkedHashMap<>();
        document.put("namespace", "harbour");
        document.put(
                "calendars",
                Map.of(
                        "holidays",
                        Map.of(
                                "dates",
                                holidays.stream()
                                        .sorted()
                                        .map(LocalDate::toString)
                                        .toList())));
        document.put("jobs", Map.of("dues", JobDocument.write(builder.build())));
        return DefinitionFile.parseAlone("document", "test", JsonText.line(document))
                .jobs()
                .get(0);
    }

    /** Chooses at random. */
    private static final class Choices {
        private final SplittableRandom random;
        final Set<LocalDate> holidays;

        Choices(SplittableRandom random) {
            this.random = random;
            this.holidays = IntStream.range(0, 40)
                    .mapToObj(any -> LocalDate.of(2026, 1, 1).plusDays(random.nextInt(1100)))
                    .collect(Collectors.toSet());
        }

        Phrase phrase() {
            ZoneId zone = one(ZONES);
            Pattern pattern = switch (random.nextInt(8)) {
                case 0, 1, 2, 3 -> Pattern.atTimes(days(), someTimes());
                case 4, 5 -> clock();
                case 6 ->
                    new Pattern.FixedInterval(
                            Duration.ofMinutes(random.nextInt(1, 2000)),
                            random.nextBoolean() ? Optional.empty() : Optional.of(window()));
                default ->
                    new Pattern.Once(LocalDate.of(2026, 1, 1)
                            .plusDays(random.nextInt(1000))
                            .atTime(random.nextInt(24), random.nextInt(60)));
            };
            boolean byClock = pattern instanceof Pattern.AtTimes || pattern instanceof Pattern.ByTheClock;
            Clocks clocks = byClock && random.nextInt(4) == 0
                    ? new Clocks(maybe(Gap.values()), maybe(Fold.values()))
                    : Clocks.USUAL;
            DaysOff off = !(pattern instanceof Pattern.Once) && random.nextInt(3) == 0
                    ? new DaysOff(
                            List.of("holidays"),
                            pattern instanceof Pattern.FixedInterval ? IfDayOff.SKIP : one(List.of(IfDayOff.values())))
                    : DaysOff.NONE;
            return new Phrase(pattern, zone, off, clocks);
        }

        private Pattern clock() {
            while (true) {
                int minutes = one(Pattern.MINUTES);
                Optional<DailyWindow> part =
                        minutes > 60 || random.nextBoolean() ? Optional.empty() : Optional.of(window());
                OnDays days = days();
                try {
                    return Pattern.byTheClock(days, minutes, part);
                } catch (IllegalArgumentException again) {
                    assertThat(again.getMessage()).matches("no time of every .*|every few weeks .*");
                }
            }
        }

        private DailyWindow window() {
            LocalTime from = LocalTime.of(random.nextInt(24), random.nextBoolean() ? 0 : random.nextInt(60));
            LocalTime until = from.plusMinutes(60L * random.nextInt(24)).plusMinutes(random.nextBoolean() ? 60 : 37);
            return from.equals(until) ? DailyWindow.parse("08:00-18:00") : new DailyWindow(from, until);
        }

        private TreeSet<LocalTime> someTimes() {
            TreeSet<LocalTime> some = new TreeSet<>();
            int count = random.nextInt(1, 6);
            int step = one(List.of(1, 10, 30, 60));
            for (int i = 0; i < count; i++) {
                some.add(LocalTime.of(0, 0).plusMinutes((long) step * random.nextInt(1440 / step)));
            }
            return some;
        }

        private OnDays days() {
            return switch (random.nextInt(8)) {
                case 0 -> new OnDays.EachDay();
                case 1 -> new OnDays.WorkingDays();
                case 2 -> OnDays.weekdays(weekdays());
                case 3 -> new OnDays.WeekdayOfMonth(random.nextInt(1, 6), DayOfWeek.of(random.nextInt(1, 8)), months());
                case 4 -> new OnDays.WorkingDayOfMonth(random.nextBoolean(), months());
                case 5, 6 -> daysOfMonth();
                default -> {
                    Set<DayOfWeek> some = weekdays();
                    LocalDate first = LocalDate.of(2025, 1, 1).plusDays(random.nextInt(300));
                    yield new OnDays.EveryFewWeeks(
                            random.nextInt(2, 9),
                            some,
                            first.with(
                                    TemporalAdjusters.nextOrSame(some.iterator().next())));
                }
            };
        }

        private OnDays daysOfMonth() {
            TreeSet<Integer> days = new TreeSet<>();
            int count = random.nextInt(1, 5);
            for (int i = 0; i < count; i++) {
                days.add(random.nextInt(1, 33));
            }
            if (days.first() > 28) {
                days.add(random.nextInt(1, 28));
            }
            return new OnDays.DaysOfMonth(days, months());
        }

        private Set<Month> months() {
            return random.nextBoolean()
                    ? OnDays.ALL_MONTHS
                    : IntStream.rangeClosed(0, random.nextInt(6))
                            .mapToObj(any -> Month.of(random.nextInt(1, 13)))
                            .collect(Collectors.toSet());
        }

        private Set<DayOfWeek> weekdays() {
            return IntStream.rangeClosed(0, random.nextInt(5))
                    .mapToObj(any -> DayOfWeek.of(random.nextInt(1, 8)))
                    .collect(Collectors.toSet());
        }

        private <T> T one(List<T> all) {
            return all.get(random.nextInt(all.size()));
        }

        private <T> Optional<T> maybe(T[] all) {
            return random.nextBoolean() ? Optional.empty() : Optional.of(all[random.nextInt(all.length)]);
        }

        /** Often just before the clocks change. */
        Instant begin(Phrase phrase) {
            if (phrase.pattern() instanceof Pattern.Once once) {
                return once.at().toInstant(ZoneOffset.UTC).minus(Duration.ofDays(2));
            }
            Instant any = LocalDate.of(2026, 3, 1)
                    .plusDays(random.nextInt(500))
                    .atStartOfDay()
                    .toInstant(ZoneOffset.UTC);
            ZoneOffsetTransition change = phrase.zone().getRules().nextTransition(any);
            return change == null || random.nextInt(3) == 0
                    ? any
                    : change.getInstant().minus(Duration.ofHours(30));
        }

        Duration length(Phrase phrase) {
            if (phrase.pattern() instanceof Pattern.AtTimes at) {
                return Duration.ofDays(at.days() instanceof OnDays.EachDay ? 10 : 100);
            }
            return Duration.ofDays(
                    phrase.pattern() instanceof Pattern.ByTheClock clock && clock.minutes() > 10 ? 12 : 3);
        }
    }

    /** Goes through days and minutes one by one, by java.time alone. */
    private static final class Oracle {
        static List<Instant> owed(Phrase phrase, Set<LocalDate> holidays, Instant from, Instant until) {
            TreeSet<Instant> owed = new TreeSet<>();
            Set<LocalDate> off = phrase.daysOff().calendars().isEmpty() ? Set.of() : holidays;
            if (phrase.pattern() instanceof Pattern.FixedInterval fixed) {
                long step = fixed.interval().toSeconds();
                for (long at = Math.floorDiv(from.getEpochSecond(), step) * step;
                        at < until.getEpochSecond();
                        at += step) {
                    LocalDateTime local = LocalDateTime.ofInstant(Instant.ofEpochSecond(at), phrase.zone());
                    if (!off.contains(local.toLocalDate())
                            && fixed.window()
                                    .filter(part -> !isIn(part, local.toLocalTime()))
                                    .isEmpty()) {
                        owed.add(Instant.ofEpochSecond(at));
                    }
                }
            } else if (phrase.pattern() instanceof Pattern.Once once) {
                owed.addAll(instants(once.at(), phrase.zone(), Gap.AFTER, Fold.FIRST));
            } else {
                days(phrase, off, from, until, owed);
            }
            return owed.stream()
                    .filter(at -> !at.isBefore(from) && at.isBefore(until))
                    .toList();
        }

        private static void days(
                Phrase phrase, Set<LocalDate> off, Instant from, Instant until, TreeSet<Instant> owed) {
            boolean goesOn = phrase.pattern() instanceof Pattern.ByTheClock clock && !Regular.isByHours(clock);
            Gap gap = phrase.clocks().gap().orElse(goesOn ? Gap.SKIP : Gap.AFTER);
            Fold fold = phrase.clocks().fold().orElse(goesOn ? Fold.BOTH : Fold.FIRST);
            OnDays on = phrase.pattern() instanceof Pattern.AtTimes at
                    ? at.days()
                    : ((Pattern.ByTheClock) phrase.pattern()).days();
            Optional<DailyWindow> window =
                    phrase.pattern() instanceof Pattern.ByTheClock clock && goesOn ? clock.window() : Optional.empty();
            List<LocalTime> times = times(phrase.pattern(), goesOn);
            LocalDate last = LocalDate.ofInstant(until, ZoneOffset.UTC).plusDays(FARTHEST_MOVE);
            for (LocalDate date = LocalDate.ofInstant(from, ZoneOffset.UTC).minusDays(FARTHEST_MOVE);
                    date.isBefore(last);
                    date = date.plusDays(1)) {
                Optional<LocalDate> moved =
                        isOn(on, date) ? moved(date, off, phrase.daysOff().move()) : Optional.empty();
                if (moved.isEmpty()) {
                    continue;
                }
                for (LocalTime time : times) {
                    instants(moved.get().atTime(time), phrase.zone(), gap, fold).stream()
                            .filter(at -> window.filter(part -> !isIn(
                                            part,
                                            LocalDateTime.ofInstant(at, phrase.zone())
                                                    .toLocalTime()))
                                    .isEmpty())
                            .forEach(owed::add);
                }
            }
        }

        private static List<LocalTime> times(Pattern pattern, boolean goesOn) {
            if (pattern instanceof Pattern.AtTimes at) {
                return List.copyOf(at.times());
            }
            Pattern.ByTheClock clock = (Pattern.ByTheClock) pattern;
            return IntStream.range(0, 1440)
                    .filter(minute -> minute % clock.minutes() == 0)
                    .mapToObj(minute -> LocalTime.of(minute / 60, minute % 60))
                    .filter(time -> goesOn
                            || clock.window().filter(part -> !isIn(part, time)).isEmpty())
                    .toList();
        }

        private static Optional<LocalDate> moved(LocalDate date, Set<LocalDate> off, IfDayOff move) {
            if (!off.contains(date)) {
                return Optional.of(date);
            }
            if (move == IfDayOff.SKIP) {
                return Optional.empty();
            }
            LocalDate other = date;
            while (off.contains(other)) {
                other = move == IfDayOff.NEXT ? other.plusDays(1) : other.minusDays(1);
            }
            return Optional.of(other);
        }

        private static List<Instant> instants(LocalDateTime local, ZoneId zone, Gap gap, Fold fold) {
            List<ZoneOffset> offsets = zone.getRules().getValidOffsets(local);
            Function<Integer, Instant> by = i -> local.toInstant(offsets.get(i));
            if (offsets.size() == 1) {
                return List.of(by.apply(0));
            }
            if (offsets.isEmpty()) {
                return gap == Gap.SKIP
                        ? List.of()
                        : List.of(zone.getRules().getTransition(local).getInstant());
            }
            List<Instant> both = new ArrayList<>(List.of(by.apply(0), by.apply(1)));
            return fold == Fold.BOTH ? both : List.of(both.get(fold == Fold.FIRST ? 0 : 1));
        }

        private static boolean isIn(DailyWindow part, LocalTime time) {
            if (part.from().isBefore(part.until())) {
                return !time.isBefore(part.from()) && time.isBefore(part.until());
            }
            return !time.isBefore(part.from()) || time.isBefore(part.until());
        }

        private static boolean isOn(OnDays days, LocalDate date) {
            if (days instanceof OnDays.WorkingDays) {
                return isWorking(date);
            }
            if (days instanceof OnDays.Weekdays some) {
                return some.days().contains(date.getDayOfWeek());
            }
            if (days instanceof OnDays.WeekdayOfMonth one) {
                LocalDate wanted = date.with(
                        one.which() == 5
                                ? TemporalAdjusters.lastInMonth(one.day())
                                : TemporalAdjusters.dayOfWeekInMonth(one.which(), one.day()));
                return one.months().contains(date.getMonth()) && wanted.equals(date);
            }
            if (days instanceof OnDays.WorkingDayOfMonth working) {
                LocalDate wanted =
                        working.last() ? date.with(TemporalAdjusters.lastDayOfMonth()) : date.withDayOfMonth(1);
                while (!isWorking(wanted)) {
                    wanted = wanted.plusDays(working.last() ? -1 : 1);
                }
                return working.months().contains(date.getMonth()) && wanted.equals(date);
            }
            if (days instanceof OnDays.DaysOfMonth some) {
                boolean isLast = date.equals(date.with(TemporalAdjusters.lastDayOfMonth()));
                return some.months().contains(date.getMonth())
                        && (some.days().contains(date.getDayOfMonth())
                                || isLast && some.days().contains(OnDays.LAST_DAY));
            }
            if (days instanceof OnDays.EveryFewWeeks weeks) {
                LocalDate monday = weeks.first().with(TemporalAdjusters.previousOrSame(DayOfWeek.MONDAY));
                long week = Math.floorDiv(date.toEpochDay() - monday.toEpochDay(), 7);
                return !date.isBefore(weeks.first())
                        && week % weeks.weeks() == 0
                        && weeks.days().contains(date.getDayOfWeek());
            }
            return true;
        }

        private static boolean isWorking(LocalDate date) {
            return date.getDayOfWeek().getValue() <= 5;
        }
    }
}
