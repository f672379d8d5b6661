package dev.brume.benchmarks;

import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.Durations;
import dev.brume.schedule.IfDayOff;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.RuleSchedule;
import dev.brume.schedule.Schedule;
import dev.brume.schedule.Terms;
import dev.brume.schedule.Timeline;
import dev.brume.schedule.Union;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.util.Collection;
import java.util.EnumSet;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.TreeMap;
import java.util.concurrent.TimeUnit;
import java.util.stream.IntStream;
import org.openjdk.jmh.annotations.Benchmark;
import org.openjdk.jmh.annotations.BenchmarkMode;
import org.openjdk.jmh.annotations.Mode;
import org.openjdk.jmh.annotations.OutputTimeUnit;
import org.openjdk.jmh.annotations.Scope;
import org.openjdk.jmh.annotations.Setup;
import org.openjdk.jmh.annotations.State;
import org.openjdk.jmh.profile.GCProfiler;
import org.openjdk.jmh.results.RunResult;
import org.openjdk.jmh.runner.Runner;
import org.openjdk.jmh.runner.RunnerException;
import org.openjdk.jmh.runner.options.OptionsBuilder;
import org.openjdk.jmh.runner.options.TimeValue;

/**
 * What schedule mathematics costs, as ratios to {@code ZonedDateTime.ofInstant} in the same run, with the bytes
 * allocated per call; then the next occurrences of a million different jobs on one core.
 */
@State(Scope.Thread)
@BenchmarkMode(Mode.AverageTime)
@OutputTimeUnit(TimeUnit.NANOSECONDS)
public class ScheduleBenchmark {
    private static final ZoneId ZONE = ZoneId.of("Europe/Lisbon");
    private static final Instant BEGIN = Instant.parse("2026-11-23T10:00:00Z");
    private static final Duration TEN_YEARS = Duration.ofDays(3653);
    private static final int INSTANTS = 4096;
    private static final int JOBS = Scale.number("jobs", 1_000_000, 1000);

    private static final TimeValue ITERATION = TimeValue.milliseconds(Scale.number("millis", 1000, 20));

    private final Instant[] instants = new Instant[INSTANTS];
    private int at;
    private Schedule nightly;
    private Schedule everyFiveMinutes;
    private Schedule leapMonday;
    private Schedule lastWorkday;
    private Schedule windowed;
    private Timeline twoCrons;
    private Timeline twoRules;

    /** Creates the state. */
    public ScheduleBenchmark() {
        // Set up by the harness.
    }

    /** Lays out instants over twenty years, so that no branch is learnt by heart. */
    @Setup
    public void setUp() {
        for (int i = 0; i < INSTANTS; i++) {
            instants[i] = BEGIN.plusSeconds(i * 154_321L);
        }
        nightly = CronSchedule.parse("15 4 * * *", ZONE);
        everyFiveMinutes = CronSchedule.parse("*/5 * * * *", ZONE);
        leapMonday = CronSchedule.parse("0 9 29 2 MON", ZONE).withDays(dev.brume.schedule.Days.BOTH);
        DayCalendar office =
                DayCalendar.of("office-days", EnumSet.range(DayOfWeek.MONDAY, DayOfWeek.FRIDAY), List.of(), List.of());
        List<LocalDate> feasts = IntStream.range(0, 600)
                .mapToObj(i -> LocalDate.parse("2026-01-01").plusDays(i * 31L))
                .toList();
        lastWorkday = CronSchedule.parse("0 9 LW * *", ZONE)
                .with(Terms.NONE
                        .onlyOn(office)
                        .notOn(DayCalendar.ofDates("feasts", feasts))
                        .ifDayOff(IfDayOff.PREVIOUS));
        windowed = CronSchedule.parse("*/5 * * * *", ZONE)
                .with(Terms.NONE.within(dev.brume.schedule.DailyWindow.parse("08:00-18:00")));
        twoCrons = Union.of(
                List.of(CronSchedule.parse("*/2 * * * * *", ZONE), CronSchedule.parse("1-59/3 * * * * *", ZONE)));
        twoRules = Union.of(List.of(rule("FREQ=SECONDLY"), rule("FREQ=SECONDLY;INTERVAL=7")));
    }

    private static RuleSchedule rule(String rule) {
        return RuleSchedule.parse("DTSTART:20200101T000000\nRRULE:" + rule, ZONE);
    }

    private Instant instant() {
        at = at + 1 & INSTANTS - 1;
        return instants[at];
    }

    /** The yardstick. */
    @Benchmark
    public ZonedDateTime floor() {
        return ZonedDateTime.ofInstant(instant(), ZONE);
    }

    /** A common expression: once a day. */
    @Benchmark
    public Optional<Occurrence> nextNightly() {
        return nightly.next(instant());
    }

    /** A common expression: every five minutes. */
    @Benchmark
    public Optional<Occurrence> nextEveryFiveMinutes() {
        return everyFiveMinutes.next(instant());
    }

    /** A common expression in a daily window. */
    @Benchmark
    public Optional<Occurrence> nextInWindow() {
        return windowed.next(instant());
    }

    /** A sparse expression: 29 February on a Monday, every 28 years. */
    @Benchmark
    public Optional<Occurrence> nextLeapMonday() {
        return leapMonday.next(instant());
    }

    /** A sparse expression: the last weekday of the month, moved off holidays. */
    @Benchmark
    public Optional<Occurrence> nextLastWorkday() {
        return lastWorkday.next(instant());
    }

    /** Backwards. */
    @Benchmark
    public Optional<Occurrence> previousNightly() {
        return nightly.previous(instant());
    }

    /** Reading an expression. */
    @Benchmark
    public CronSchedule parse() {
        return CronSchedule.parse("15 4 * * MON-FRI", ZONE);
    }

    /** Counting a year of seconds. */
    @Benchmark
    public long countAYearOfFiveMinutes() {
        Instant from = instant();
        return everyFiveMinutes.count(from, from.plus(Duration.ofDays(365)));
    }

    /** Counting ten years of two expressions that name seconds, those that both name once. */
    @Benchmark
    public long countTenYearsOfTwoCrons() {
        return twoCrons.count(BEGIN, BEGIN.plus(TEN_YEARS));
    }

    /** The same of two rules. */
    @Benchmark
    public long countTenYearsOfTwoRules() {
        return twoRules.count(BEGIN, BEGIN.plus(TEN_YEARS));
    }

    /** Runs everything and prints the ratios. */
    public static void main(String[] args) throws RunnerException {
        Collection<RunResult> results = new Runner(new OptionsBuilder()
                        .include(ScheduleBenchmark.class.getSimpleName())
                        .forks(Scale.number("forks", 2, 0))
                        .warmupIterations(Scale.number("warmUps", 3, 1))
                        .warmupTime(ITERATION)
                        .measurementIterations(Scale.number("rounds", 5, 1))
                        .measurementTime(ITERATION)
                        .addProfiler(GCProfiler.class)
                        .build())
                .run();
        TreeMap<String, double[]> figures = new TreeMap<>();
        for (RunResult result : results) {
            String name = result.getParams().getBenchmark().replaceFirst(".*\\.", "");
            double nanos = result.getPrimaryResult().getScore();
            double bytes =
                    result.getSecondaryResults().get("gc.alloc.rate.norm").getScore();
            figures.put(name, new double[] {nanos, bytes});
        }
        double floor = figures.get("floor")[0];
        figures.forEach((name, figure) -> System.out.println(String.format(
                Locale.ROOT,
                "%-26s %12.1f ns %10.1f x floor %8.0f bytes",
                name,
                figure[0],
                figure[0] / floor,
                figure[1])));
        millionJobs();
    }

    /** A million different expressions in several zones: parsed beforehand, then the next occurrence of each, timed. */
    private static void millionJobs() {
        ZoneId[] zones = {
            ZONE, ZoneId.of("Atlantic/Azores"), ZoneId.of("America/Halifax"), ZoneId.of("Australia/Lord_Howe")
        };
        CronSchedule[] jobs = new CronSchedule[JOBS];
        for (int i = 0; i < JOBS; i++) {
            String text =
                    i % 60 + " " + i / 60 % 24 + " " + (i % 3 == 0 ? "*" : Integer.toString(i / 1440 % 28 + 1)) + " "
                            + (i % 2 == 0 ? "*" : Integer.toString(i / 40_320 % 12 + 1)) + " "
                            + (i % 7 == 0 ? Integer.toString(i % 7) : "*");
            jobs[i] = CronSchedule.parse(text, zones[i % zones.length]);
        }
        for (int round = 0; round < 5; round++) {
            long sum = 0;
            long begin = System.nanoTime();
            for (CronSchedule job : jobs) {
                sum += job.next(BEGIN).orElseThrow().instant().getEpochSecond();
            }
            Duration took = Duration.ofNanos(System.nanoTime() - begin);
            System.out.println("next of " + JOBS + " jobs, one thread, round " + (round + 1) + ": "
                    + Durations.format(took) + " (checksum " + sum + ")");
        }
    }
}
