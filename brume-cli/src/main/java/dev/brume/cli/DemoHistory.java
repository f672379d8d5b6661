package dev.brume.cli;

import dev.brume.AttemptEnd;
import dev.brume.Brume;
import dev.brume.DefinitionSet;
import dev.brume.IfFailed;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.RunState;
import dev.brume.definitions.DefinitionFile;
import dev.brume.history.Pause;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.insight.internal.Effort;
import dev.brume.insight.internal.VirtualInstance;
import dev.brume.insight.internal.VirtualOffice;
import dev.brume.insight.internal.VirtualTime;
import dev.brume.insight.watch.Vigil;
import dev.brume.internal.duty.Settings;
import dev.brume.notice.Channel;
import dev.brume.notice.Notice;
import dev.brume.notice.Sender;
import dev.brume.notice.Way;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.Store;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.SplittableRandom;
import java.util.function.Function;
import java.util.stream.Stream;

/**
 * The past of the harbour office: its last seven days, and its nights since clocks last changed, made by the engine in virtual
 * time.
 *
 * <p>In those days the office was closed for a night, a power cut took an instance away in the middle of the lamp inspection,
 * somebody paused the telemetry, the ledger office was hard to reach until more attempts were allowed, and a job was cancelled
 * by hand.
 */
final class DemoHistory {
    private static final ZoneId AZORES = ZoneId.of("Atlantic/Azores");
    private static final Duration WEEK = Duration.ofDays(7);
    private static final Duration BEFORE_CHANGE = Duration.ofHours(12);
    private static final Duration QUIET = Duration.ofHours(6);
    private static final Duration WATCHFUL = Duration.ofMinutes(1);
    private static final Duration SELDOM = Duration.ofHours(1);
    private static final Duration NIGHT_WATCH = Duration.ofMinutes(1);
    private static final Duration SLOW_TIDES = Duration.ofMinutes(113);
    private static final int NIGHT_JOBS = 4;
    private static final long SEED = 20_261;

    private final DefinitionFile file;
    private final Instant now;
    private final VirtualTime time;
    private final VirtualOffice office;
    private final Brume brume;
    private final SplittableRandom chance = new SplittableRandom(SEED);
    private final Map<String, VirtualInstance> quays = new HashMap<>();

    private DemoHistory(DefinitionFile file, Instant begin, Instant now, Function<VirtualTime, Store> stores) {
        this.file = file;
        this.now = now;
        time = new VirtualTime(begin);
        Store store = stores.apply(time);
        brume = Brume.on(store).withoutLog().instance("office").time(time).build();
        office = new VirtualOffice(store, time, this::work, event -> {}, SEED);
        office.telling(new VirtualInstance.Telling(new AllArrives(), Optional.of(new Vigil())));
    }

    /**
     * Writes it.
     *
     * @param file the office's definitions
     * @param now up to when
     * @param stores gives the store that goes by a time
     */
    static void write(DefinitionFile file, Instant now, Function<VirtualTime, Store> stores) {
        Instant change =
                AZORES.getRules().previousTransition(now.minus(BEFORE_CHANGE)).getInstant();
        Instant week = now.minus(WEEK);
        Instant first = change.minus(BEFORE_CHANGE);
        Instant begin = first.isBefore(week) ? first : week.minus(BEFORE_CHANGE);
        DemoHistory history = new DemoHistory(file, begin, now, stores);
        history.nights(week);
        history.week(week);
        history.close();
    }

    private void close() {
        quays.values().forEach(VirtualInstance::leave);
        brume.close();
    }

    private DefinitionSet revision(long number, Stream<Job> jobs) {
        return DefinitionSet.of(file.source(), jobs.toList())
                .withCalendars(file.calendars())
                .withLimits(file.limits())
                .withRates(file.rates())
                .withTelling(file.telling())
                .withRevision(number);
    }

    private void open(String quay, Duration lease) {
        open(quay, lease, SELDOM);
    }

    private void open(String quay, Duration lease, Duration poll) {
        Settings settings = new Settings(
                quay,
                quay + ".merrow.example",
                1000 + quay.length(),
                Map.of(Job.MAIN_LANE, 8),
                lease,
                poll,
                Settings.BATCH);
        quays.put(quay, office.start(settings));
    }

    private VirtualInstance quay(String name) {
        return Objects.requireNonNull(quays.get(name), name);
    }

    /** Closes the instances one after the other and opens them again, as a deployment does. */
    private void restart(Duration lease) {
        for (String quay : List.of("quay-1", "quay-2", "quay-3")) {
            quay(quay).leave();
            open(quay, lease);
        }
    }

    /** Before the week there were two instances, and only the jobs of the night. */
    private void nights(Instant until) {
        brume.define(revision(1, file.jobs().stream().limit(NIGHT_JOBS)));
        open("quay-1", QUIET);
        open("quay-2", QUIET);
        office.advanceTo(until);
    }

    private void week(Instant begin) {
        open("quay-3", QUIET);
        brume.define(revision(2, file.jobs().stream().map(DemoHistory::asItWas)));
        office.look();
        LocalDate day = LocalDate.ofInstant(begin, AZORES);
        List<Scene> scenes = new ArrayList<>();
        scenes.add(new Scene(at(day.plusDays(1), 10, 5), this::orderTideTables));
        scenes.add(new Scene(at(day.plusDays(2), 11, 0), this::pauseTelemetry));
        scenes.add(new Scene(at(day.plusDays(2), 14, 0), this::resumeTelemetry));
        scenes.add(new Scene(at(day.plusDays(2), 22, 10), this::closeForTheNight));
        scenes.add(new Scene(at(day.plusDays(3), 7, 20), this::openAgain));
        scenes.add(new Scene(at(day.plusDays(4), 19, 50), () -> restart(WATCHFUL)));
        scenes.add(new Scene(at(day.plusDays(4), 20, 17), this::powerCut));
        scenes.add(new Scene(at(day.plusDays(4), 20, 19), office::look));
        scenes.add(new Scene(at(day.plusDays(4), 21, 40), () -> restart(QUIET)));
        scenes.add(new Scene(at(day.plusDays(5), 12, 0), this::allowMoreAttempts));
        scenes.add(new Scene(at(day.plusDays(5), 20, 25), this::cancelInspection));
        scenes.add(new Scene(at(day.plusDays(6), 9, 0), this::planClosures));
        scenes.add(new Scene(at(day.plusDays(6), 22, 30), this::keepWatch));
        scenes.add(new Scene(at(day.plusDays(7), 6, 30), () -> restart(QUIET)));
        for (Scene scene : scenes) {
            if (scene.at.isAfter(begin) && scene.at.isBefore(now)) {
                office.advanceTo(scene.at);
                scene.happens.run();
            }
        }
        office.advanceTo(now);
    }

    private record Scene(Instant at, Runnable happens) {}

    private static Instant at(LocalDate day, int hour, int minute) {
        return day.atTime(LocalTime.of(hour, minute)).atZone(AZORES).toInstant();
    }

    /** The ledger office used to be asked twice only. */
    private static Job asItWas(Job job) {
        return job.name().name().equals("harbour-dues")
                ? job.copy()
                        .ifFailed(IfFailed.attempts(2, Duration.ofMinutes(5)))
                        .build()
                : job;
    }

    /** In the last night the tide gauge was slow, and somebody looked every minute. */
    private boolean isOfTheLastNight(LeasedRun run) {
        return run.row().owed().planned().isAfter(now.minus(Duration.ofDays(1)));
    }

    private void keepWatch() {
        for (String quay : List.of("quay-1", "quay-2", "quay-3")) {
            quay(quay).leave();
            open(quay, QUIET, NIGHT_WATCH);
        }
    }

    /** Whatever was sent in those days has arrived. */
    private static final class AllArrives implements Sender {
        @Override
        public boolean sends(Way way) {
            return true;
        }

        @Override
        public int together(Way way) {
            return 100;
        }

        @Override
        public String send(Channel channel, List<Notice> notices) {
            return "";
        }
    }

    // What happened.

    private void orderTideTables() {
        brume.orders("mara", "the tide gauge was set anew").runNow(JobName.parse("tide-tables"));
        office.look();
    }

    private void pauseTelemetry() {
        brume.orders("ines", "divers clean the buoys").pause(Pause.Scope.tag("telemetry"));
    }

    private void resumeTelemetry() {
        brume.orders("ines", "the buoys are clean").resume(Pause.Scope.tag("telemetry"));
        office.look();
    }

    private void closeForTheNight() {
        quays.values().forEach(VirtualInstance::leave);
    }

    private void openAgain() {
        List.of("quay-1", "quay-2", "quay-3").forEach(quay -> open(quay, QUIET));
    }

    /** Whoever inspects the lamps loses its power. */
    private void powerCut() {
        running("lamp-inspection")
                .flatMap(RunView::lastAttempt)
                .ifPresent(attempt -> quay(attempt.instance()).die());
        office.advanceTo(time.instant().plus(WATCHFUL).plusSeconds(1));
        office.look();
    }

    private void allowMoreAttempts() {
        brume.define(revision(3, file.jobs().stream()));
        office.look();
    }

    private void cancelInspection() {
        running("lamp-inspection")
                .ifPresent(
                        run -> brume.orders("tomas", "too foggy to see a lamp").cancel(run.id()));
        office.look();
    }

    private void planClosures() {
        JobName closure = JobName.parse("bridge-closure");
        brume.oneOffs()
                .add(OneOff.of(closure, "closure-17")
                        .at(now.plus(Duration.ofDays(2)))
                        .payload("{\"bridge\": \"south\"}"));
        brume.oneOffs()
                .add(OneOff.of(closure, "closure-18")
                        .at(now.plus(Duration.ofDays(9)))
                        .payload("{\"bridge\": \"north\"}"));
    }

    private Optional<RunView> running(String job) {
        return brume.history().runs(RunFilter.newest(20).of(JobName.parse(job))).stream()
                .filter(run -> run.state().filter(RunState.RUNNING::equals).isPresent())
                .findFirst();
    }

    // Work.

    private Effort work(LeasedRun run) {
        return switch (run.job().name().name()) {
            case "night-watch-report" -> Effort.of(about(4)).printing("All quiet\n");
            case "night-ferry-count" -> Effort.of(about(9)).returning(12 + chance.nextInt(20) + " passengers");
            case "tide-tables" ->
                Effort.of(isOfTheLastNight(run) ? SLOW_TIDES : about(42))
                        .printing("High water at Merrow: 04:41 and 17:02, 3.1 m\n");
            case "buoy-telemetry" -> buoys();
            case "ferry-manifests" -> Effort.of(about(isStormy(run) ? 2700 : 420));
            case "fog-signal-test" -> Effort.of(about(95)).printing("long\nshort\nshort\n");
            case "harbour-dues" -> dues(run);
            case "lamp-inspection" -> Effort.of(about(2600)).printing("all lamps lit\n");
            case "archive-sync" -> Effort.of(about(chance.nextInt(3) == 0 ? 5000 : 150));
            case "channel-sweep" -> Effort.of(about(1500));
            default -> Effort.of(about(3));
        };
    }

    private Effort buoys() {
        return chance.nextInt(40) == 0
                ? Effort.failing(about(30), "buoy reef: no answer within 30 s")
                : Effort.of(about(6)).returning("wave height 1." + chance.nextInt(10) + " m");
    }

    private Effort dues(LeasedRun run) {
        return chance.nextInt(5) < 3 && run.row().attempt() < 4
                ? new Effort(
                                about(11),
                                AttemptEnd.FAILED,
                                Optional.of("exit code 3: ledger office: the clerk is at lunch"),
                                Optional.empty(),
                                Optional.empty())
                        .printing("settling dues of quay 4\nledger office: the clerk is at lunch\n")
                : Effort.of(about(25)).printing("settling dues of quay 4\ndues settled\n");
    }

    /** Two evenings of the week are stormy. */
    private static boolean isStormy(LeasedRun run) {
        int hour = run.row().owed().nominal().getHour();
        int day = run.row().owed().nominal().getDayOfYear() % 7;
        return hour >= 17 && (day == 1 || day == 4);
    }

    /** Roughly so many seconds. */
    private Duration about(int seconds) {
        return Duration.ofMillis(seconds * (700L + chance.nextInt(600)));
    }
}
