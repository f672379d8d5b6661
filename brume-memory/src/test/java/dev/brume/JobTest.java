package dev.brume;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.history.RunFilter;
import dev.brume.memory.MemoryStore;
import dev.brume.schedule.CronSchedule;
import dev.brume.schedule.DayCalendar;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.Spread;
import dev.brume.schedule.Terms;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.assertj.core.api.ThrowableAssert.ThrowingCallable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** Definitions in Java: what is refused, where, and with which words. */
class JobTest {
    private static final Duration FOREVER = ChronoUnit.FOREVER.getDuration();

    private static Job.Builder tides() {
        return Job.named("tides").program("true");
    }

    private static void refuses(ThrowingCallable step, String... words) {
        assertThatThrownBy(step).isInstanceOf(IllegalArgumentException.class).hasMessageContainingAll(words);
    }

    @Test
    void aWrongValueFailsWhereItIsSet() {
        refuses(() -> Job.named("no spaces"), "job name 'no spaces' is not a name", "letter or digit");
        refuses(() -> Job.named("bad space/tides"), "namespace 'bad space'");
        refuses(() -> tides().cron("61 * * * *", "UTC"), "minute: '61' is outside 0-59");
        refuses(() -> tides().cron("0 9 * * *", "Lisbon"), "did you mean Europe/Lisbon?");
        refuses(() -> tides().every(Duration.ofMillis(10)), "outside 1s");
        refuses(() -> tides().timeLimit(Duration.ZERO), "timeLimit: 0s is outside 1ms to 36525d");
        refuses(() -> tides().timeLimit(FOREVER), "timeLimit", "outside 1ms to 36525d");
        refuses(() -> tides().startWithin(FOREVER), "startWithin", "outside 1s to 36525d");
        refuses(() -> tides().description("x".repeat(4001)), "description: 4001 characters is above 4000");
        refuses(() -> tides().description("nul \0"), "description: holds NUL at character 5");
        refuses(() -> tides().payload("half \uD83D"), "payload: holds half of a surrogate pair at character 6");
        refuses(() -> tides().payload("\uDE00 half"), "payload: holds half of a surrogate pair at character 1");
        refuses(() -> Job.named("tides").program("echo", "\0"), "program: holds NUL");
        refuses(() -> Job.named("tides").handler("\0"), "handler: holds NUL");
        refuses(() -> tides().priority(10), "priority: 10 is outside 0 to 9");
        refuses(() -> tides().lane("a b"), "lane: 'a b' is not a name");
        refuses(() -> tides().tag(""), "tags: ''");
        refuses(() -> tides().payload("x".repeat(Job.LONGEST_PAYLOAD + 1)), "payload", "above 65536");
        refuses(() -> Job.named("tides").program(), "names no program");
        refuses(() -> Job.named("tides").handler(" "), "handler");
    }

    @Test
    void aPolicyOutsideItsBoundsIsRefused() {
        refuses(() -> IfBusy.waiting(0), "ifBusy: 0 is outside 1 to 10000");
        refuses(() -> IfBusy.alongside(10_001), "ifBusy: 10001");
        refuses(() -> IfFailed.attempts(0, Duration.ZERO), "0 attempts is outside 1 to 100");
        refuses(() -> IfFailed.attempts(2, Duration.ofSeconds(-1)), "the wait: -1s is outside 0s to");
        refuses(
                () -> IfFailed.attempts(2, Duration.ofSeconds(9)).factor(2).cap(Duration.ofSeconds(8)),
                "the cap: 8s is outside 9s to");
        refuses(() -> IfFailed.attempts(2, Duration.ofSeconds(9)).factor(0.5).cap(Duration.ofSeconds(9)), "factor 0.5");
        refuses(() -> IfFailed.attempts(2, Duration.ZERO).factor(Double.NaN).cap(Duration.ZERO), "factor NaN");
        refuses(() -> IfMissed.runEach(0), "ifMissed: 0 is outside 1 to 1000");
        refuses(() -> IfMissed.skip().tolerance(Duration.ofMillis(1)), "tolerance: 1ms is outside 1s to 36525d");
        refuses(() -> IfMissed.skip().tolerance(FOREVER), "tolerance", "outside 1s to 36525d");
        refuses(() -> IfMissed.runLatest().oldest(FOREVER), "oldest", "outside 1s to 36525d");
        refuses(() -> IfFailed.attempts(2, Duration.ZERO).factor(2).cap(FOREVER), "cap", "outside 0s to 36525d");
        refuses(() -> Keep.upTo(FOREVER), "keep", "outside 1h to 36525d");
    }

    @Test
    void waitsGrowUpToTheirCap() {
        IfFailed policy =
                IfFailed.attempts(100, Duration.ofSeconds(10)).factor(10).cap(Duration.ofHours(1));

        assertThat(policy.waitAfter(1)).isEqualTo(Duration.ofSeconds(10));
        assertThat(policy.waitAfter(2)).isEqualTo(Duration.ofSeconds(100));
        assertThat(policy.waitAfter(4)).isEqualTo(Duration.ofHours(1));
        assertThat(policy.waitAfter(99)).isEqualTo(Duration.ofHours(1));
    }

    @Test
    void aJobWithoutWorkIsNotBuilt() {
        assertThatThrownBy(() -> Job.named("tides").build())
                .isInstanceOf(IllegalStateException.class)
                .hasMessageContaining("has no work");
    }

    @Test
    void equalPartsMakeEqualJobs() {
        assertThat(tides().tag("a").tag("b").build())
                .isEqualTo(tides().tag("b").tag("a").build())
                .hasSameHashCodeAs(tides().tag("b").tag("a").build())
                .isNotEqualTo(tides().build());
        assertThat(tides().cron("0 9 * * *", "UTC").build())
                .isNotEqualTo(tides().cron("0 9 * * *", "Europe/Lisbon").build());
        assertThat(new Work.Program(List.of("a"), Map.of("x", "1"), Optional.empty()))
                .isEqualTo(new Work.Program(List.of("a"), Map.of("x", "1"), Optional.empty()));
    }

    @Test
    void theNextOccurrenceIsTheEarliestOfAllSchedules() {
        Instant now = Instant.parse("2026-11-23T10:00:00Z");
        Job job = tides().cron("0 12 * * *", "UTC")
                .once(Instant.parse("2026-11-23T11:00:00Z"))
                .build();

        assertThat(job.next(now).orElseThrow().instant()).isEqualTo("2026-11-23T11:00:00Z");
        assertThat(job.next(Instant.parse("2026-11-23T11:00:00Z")).orElseThrow().instant())
                .isEqualTo("2026-11-23T12:00:00Z");
        assertThat(job.scheduleInWords())
                .contains("At 12:00 every day, UTC; Once, on Monday 23 November 2026 at 11:00");
        assertThat(tides().build().scheduleInWords()).isEqualTo("When ordered");
        assertThat(tides().every(Duration.ofHours(1)).enabled(false).build().scheduleInWords())
                .endsWith("(disabled)");
    }

    @ParameterizedTest
    @ValueSource(strings = {"tides", "harbour/tides", "a.b_c-d", "7"})
    void keysAreReadAndShownAsPeopleWriteThem(String text) {
        assertThat(JobName.parse(text)).hasToString(text);
        assertThat(JobName.parse(JobName.parse(text).toString())).isEqualTo(JobName.parse(text));
    }

    @Test
    void keysOfTheMainNamespaceNeedNotNameIt() {
        assertThat(JobName.parse("main/tides"))
                .isEqualTo(JobName.parse("tides"))
                .hasToString("tides");
        refuses(() -> JobName.parse("a/b/c"), "'b/c' is not a name");
        refuses(() -> JobName.parse("x".repeat(101)), "at most 100");
    }

    @Test
    void anInstanceCanDefineAndLookWithoutBeingStarted() throws InterruptedException {
        MemoryStore store = new MemoryStore();
        try (Brume brume = Brume.on(store).instance("office").build()) {
            assertThat(brume.define(tides().every(Duration.ofSeconds(1)).build())
                            .kind())
                    .isEqualTo(Defined.Kind.NEW);
            assertThat(brume.history().jobs()).hasSize(1);
            assertThat(brume.history().sessions(true)).isEmpty();
            assertThat(brume.history().runs(RunFilter.newest(10))).isEmpty();
            assertThat(brume.stop(Duration.ZERO)).isTrue();
        }
    }

    @Test
    void anInstanceIsSetUpWithinBounds() {
        MemoryStore store = new MemoryStore();
        refuses(() -> Brume.on(store).instance("a b"), "instance 'a b' is not a name");
        refuses(() -> Brume.on(store).workers(0), "0 workers is outside 1 to 10000");
        refuses(() -> Brume.on(store).lease(Duration.ofMillis(100)).build(), "lease: 100ms is outside 2s to");
        refuses(() -> Brume.on(store).poll(Duration.ofMillis(1)).build(), "poll: 1ms is outside 50ms to");
        refuses(() -> Brume.on(store).lease(FOREVER), "lease", "outside 2s to 3650d");
        refuses(() -> Brume.on(store).drainLimit(FOREVER), "drainLimit", "outside 0s to 36525d");
        refuses(() -> Brume.on(store).batch(0).build(), "batch: 0 is outside 1 to 100000");
    }

    @Test
    void anInstanceIsStartedOnce() throws InterruptedException {
        try (Brume brume = Brume.on(new MemoryStore()).instance("office").build()) {
            brume.start();
            assertThatThrownBy(brume::start)
                    .isInstanceOf(IllegalStateException.class)
                    .hasMessageContaining("'office' was started before");
        }
    }

    @Test
    void aStoreThatRefusesSaysWhy() {
        StoreException refused = new StoreException(StoreException.Trouble.NOT_WRITABLE, "cannot write to x", null);

        assertThat(refused).isInstanceOf(BrumeException.class).hasMessage("cannot write to x");
        assertThat(refused.trouble()).isEqualTo(StoreException.Trouble.NOT_WRITABLE);
    }

    // Several schedules, spread, calendars.

    @Test
    void aSpreadDelaysAllOfItByOneOffsetOfItsKey() {
        Job.Builder hourly = Job.named("tides").cron("@hourly", "UTC").program("true");
        Job plain = hourly.build();
        Job spread = hourly.spread(Duration.ofMinutes(10)).build();
        Instant from = Instant.parse("2026-11-23T10:30:00Z");

        assertThat(plain.offset()).isZero();
        assertThat(spread.offset())
                .isBetween(Duration.ZERO, Duration.ofSeconds(599))
                .isEqualTo(Spread.offset("main/tides", Duration.ofMinutes(10)));
        assertThat(spread.next(from).orElseThrow().instant())
                .isEqualTo(plain.next(from).orElseThrow().instant().plus(spread.offset()));
        assertThat(spread.scheduleInWords()).contains("later by its spread of 10m");
        assertThat(spread).isNotEqualTo(plain);
    }

    @Test
    void aSpreadIsBelowTheShortestInterval() {
        Job.Builder job = Job.named("tides").cron("*/15 * * * *", "UTC").program("true");

        assertThatThrownBy(() -> job.spread(Duration.ofMinutes(15)).build())
                .hasMessage("spread: 15m is not below the shortest interval, 15m of '*/15 * * * *'");
        assertThat(job.spread(Duration.ofSeconds(899)).build().spread()).contains(Duration.ofSeconds(899));
        assertThatThrownBy(() -> job.spread(Duration.ofMillis(999))).hasMessageContaining("outside 1s to 1d");
        assertThatThrownBy(() -> job.spread(Duration.ofDays(2))).hasMessageContaining("outside 1s to 1d");
        assertThat(Job.named("once")
                        .once(Instant.EPOCH)
                        .spread(Duration.ofHours(9))
                        .program("true")
                        .build()
                        .spread())
                .isPresent();
    }

    @Test
    void anInstantThatSchedulesShareIsOwedOnce() {
        Job job = Job.named("tides")
                .cron("0 * * * *", "UTC")
                .cron("*/30 * * * *", "UTC")
                .every(Duration.ofHours(1))
                .program("true")
                .build();
        Instant from = Instant.parse("2026-11-23T10:00:00Z");

        assertThat(job.timeline().between(from, from.plus(Duration.ofHours(2))).map(Occurrence::instant))
                .containsExactly(from, from.plusSeconds(1800), from.plusSeconds(3600), from.plusSeconds(5400));
        assertThat(job.timeline().count(from, from.plus(Duration.ofHours(2)))).isEqualTo(4);
    }

    @Test
    void onlyOneScheduleGoesByEnds() {
        Job.Builder job = Job.named("sweep").afterEnd(Duration.ofMinutes(5)).program("true");

        assertThat(job.build().byEnds()).isPresent();
        assertThat(job.build().next(Instant.EPOCH)).isEmpty();
        assertThat(job.enabled(false).build().byEnds()).isEmpty();
        assertThatThrownBy(() -> job.afterEnd(Duration.ofMinutes(6)).build())
                .hasMessageContaining("only one schedule of a job may be afterEnd");
    }

    @Test
    void calendarsAreResolvedByNameAndEachIsNamedOnce() {
        DayCalendar feasts = DayCalendar.ofDates("feasts", List.of(LocalDate.parse("2026-11-24")));
        Terms terms = Terms.NONE.notOn(DayCalendar.missing("feasts")).onlyOn(DayCalendar.missing("office-days"));
        CronSchedule nine = CronSchedule.parse("0 9 * * *", ZoneId.of("UTC"));
        Job job = Job.named("dues")
                .schedule(nine.with(terms))
                .schedule(nine.with(Terms.NONE.notOn(DayCalendar.missing("feasts"))))
                .program("true")
                .build();
        Job resolved = job.withCalendars(Map.of("feasts", feasts));

        assertThat(job.calendars()).extracting(DayCalendar::name).containsExactly("feasts", "office-days");
        assertThat(resolved.calendars()).containsExactly(feasts, DayCalendar.missing("office-days"));
        assertThat(resolved.next(Instant.parse("2026-11-23T10:00:00Z"))
                        .orElseThrow()
                        .instant())
                .isEqualTo("2026-11-25T09:00:00Z");
        assertThat(resolved.withCalendars(Map.of())).isEqualTo(job);
    }
}
