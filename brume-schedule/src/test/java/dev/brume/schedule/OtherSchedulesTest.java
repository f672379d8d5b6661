package dev.brume.schedule;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class OtherSchedulesTest {
    private static final ZoneId LISBON = ZoneId.of("Europe/Lisbon");

    @Test
    void everyIsAGridFromTheEpochWhateverTheClocksDo() {
        EverySchedule every = EverySchedule.of(Duration.ofMinutes(90));
        Instant at = Instant.parse("2026-03-29T00:00:00Z");

        assertThat(every.next(at.minusNanos(1)).orElseThrow().instant()).isEqualTo(at);
        assertThat(every.next(at).orElseThrow().instant()).isEqualTo(at.plus(Duration.ofMinutes(90)));
        assertThat(every.previous(at).orElseThrow().instant()).isEqualTo(at.minus(Duration.ofMinutes(90)));
        assertThat(every.count(at, at.plus(Duration.ofHours(3)))).isEqualTo(2);
        assertThat(every.words()).isEqualTo("Every 1 hour and 30 minutes");
        assertThat(EverySchedule.of(Duration.ofSeconds(1)).words()).isEqualTo("Every second");
    }

    @Test
    void everyKeepsToItsAnchorOnBothSides() {
        SplittableRandom random = new SplittableRandom(5);
        for (int i = 0; i < 500; i++) {
            Duration interval = Duration.ofMillis(1000 + random.nextInt(1_000_000));
            Instant anchor = Instant.ofEpochMilli(random.nextLong(-2_000_000_000_000L, 2_000_000_000_000L));
            Instant at = Instant.ofEpochMilli(random.nextLong(-2_000_000_000_000L, 2_000_000_000_000L));
            EverySchedule every = EverySchedule.of(interval).withAnchor(anchor);
            Instant next = every.next(at).orElseThrow().instant();
            assertThat(next).isAfter(at).isBeforeOrEqualTo(at.plus(interval));
            assertThat(Duration.between(anchor, next).toMillis() % interval.toMillis())
                    .isZero();
            assertThat(every.previous(next).orElseThrow().instant()).isEqualTo(next.minus(interval));
        }
    }

    @Test
    void severalGridsTogetherAreCountedAsIfOneByOne() {
        SplittableRandom random = new SplittableRandom(11);
        for (int i = 0; i < 300; i++) {
            List<EverySchedule> grids = new ArrayList<>();
            for (int part = 0; part <= random.nextInt(1, 4); part++) {
                grids.add(EverySchedule.of(Duration.ofMillis(500L * random.nextInt(2, 40)))
                        .withAnchor(Instant.ofEpochMilli(500L * random.nextInt(-100, 100))));
            }
            Timeline together = Union.of(grids);
            Instant from = Instant.ofEpochMilli(random.nextLong(-1_000_000, 1_000_000));
            Instant until = from.plusMillis(random.nextLong(0, 900_000)).plusNanos(random.nextInt(2));
            assertThat(together.count(from, until))
                    .as("%s from %s until %s", grids, from, until)
                    .isEqualTo(together.between(from, until).count());
        }
    }

    @Test
    void aHundredYearsOfSeveralDenseGridsAreArithmetic() {
        Timeline together = Union.of(List.of(
                EverySchedule.of(Duration.ofSeconds(1)),
                EverySchedule.of(Duration.ofSeconds(1)).withAnchor(Instant.ofEpochMilli(500)),
                EverySchedule.of(Duration.ofSeconds(7))));
        Instant from = Instant.parse("2026-01-01T00:00:00Z");

        assertThat(together.count(from, from.plus(Duration.ofDays(36_525)))).isEqualTo(2 * 36_525L * 86_400);
    }

    @Test
    void anIntervalBelowASecondIsRefused() {
        assertThatThrownBy(() -> EverySchedule.of(Duration.ofMillis(999)))
                .isInstanceOf(ScheduleSyntaxException.class)
                .hasMessageContaining("outside 1s to 36525d");
    }

    @Test
    void onceIsOwedOnceAndMeetsGapsAndFolds() {
        OnceSchedule gap = OnceSchedule.parse("2026-03-29T01:30", LISBON);
        assertThat(gap.occurrence().orElseThrow().instant()).isEqualTo("2026-03-29T01:00:00Z");
        assertThat(gap.occurrence().orElseThrow().notes()).contains(Note.AFTER_GAP);
        OnceSchedule fold = OnceSchedule.parse("2026-10-25T01:30", LISBON);
        assertThat(fold.occurrence().orElseThrow().instant()).isEqualTo("2026-10-25T00:30:00Z");

        OnceSchedule instant = OnceSchedule.parse("2027-05-14T06:00:00+02:00", LISBON);
        assertThat(instant.next(Instant.EPOCH).orElseThrow().instant()).isEqualTo("2027-05-14T04:00:00Z");
        assertThat(instant.next(Instant.parse("2027-05-14T04:00:00Z"))).isEmpty();
        assertThat(instant.previous(Instant.parse("2027-05-14T04:00:00Z"))).isEmpty();
        assertThat(instant.previous(Instant.parse("2027-05-14T04:00:01Z"))).isEqualTo(instant.occurrence());
        assertThat(OnceSchedule.parse(instant.toString(), LISBON)).isEqualTo(instant);
        assertThatThrownBy(() -> OnceSchedule.parse("tomorrow", LISBON)).hasMessageContaining("not a date and time");
    }

    @ParameterizedTest
    @CsvSource({
        "90s,PT1M30S",
        "1h30m,PT1H30M",
        "250ms,PT0.25S",
        "2d,PT48H",
        "PT5M,PT5M",
        "1d2h3m4s5ms,PT26H3M4.005S",
        "24.6s,PT24.6S",
        "1m2.005s,PT1M2.005S"
    })
    void durationsAreReadAndWritten(String text, String iso) {
        Duration duration = Durations.parse(text);

        assertThat(duration).hasToString(iso);
        assertThat(Durations.parse(Durations.format(duration))).isEqualTo(duration);
    }

    @ParameterizedTest
    @CsvSource({
        "0s, 0ms",
        "340ms, 340ms",
        "3s, 3s",
        "1250ms, 1.3s",
        "59900ms, 59.9s",
        "59960ms, 1m",
        "3m20s, 3m20s",
        "9m59s, 9m59s",
        "42m29s, 42m",
        "23h59m20s, 23h59m",
        "23h59m40s, 1d",
        "50h, 2d2h",
        "13d23h40m, 14d",
        "40d, 40d"
    })
    void aboutHowLongIsSaidInTwoUnitsThatCanBeReadAgain(String exactly, String about) {
        assertThat(Durations.about(Durations.parse(exactly))).isEqualTo(about);
        assertThat(Durations.about(Durations.parse(about))).isEqualTo(about);
        assertThat(Durations.about(Durations.parse("3m20s").negated())).isEqualTo("-3m20s");
    }

    @ParameterizedTest
    @ValueSource(strings = {"", "5", "s", "5x", "-5s", "1.5h", "1.s", "1.2345s", "PT", "P1Y", "99999999999999999999s"})
    void whatIsNoDurationIsRefused(String text) {
        assertThatThrownBy(() -> Durations.parse(text)).isInstanceOf(ScheduleSyntaxException.class);
    }

    @Test
    void aBareNumberIsToldItsUnit() {
        assertThatThrownBy(() -> Durations.parse("30")).hasMessageContaining("has no unit; did you mean 30s?");
    }

    @ParameterizedTest
    @CsvSource({
        "Lisbon,Europe/Lisbon",
        "Atlantic/Azors,Atlantic/Azores",
        "europe/lisbon,Europe/Lisbon",
        "CEST,Europe/Paris",
        "america/new york,America/New_York"
    })
    void anUnknownZoneIsToldTheNearest(String name, String nearest) {
        assertThatThrownBy(() -> Zones.parse(name)).hasMessageContaining("did you mean " + nearest + "?");
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "\u0000",
                "*/*/*",
                "((((",
                "𝟘 9 * * *",
                "٣ * * * *",
                "999999999999 * * * *",
                "L L L L L",
                "# # # # #"
            })
    void nonsenseIsRefusedAndNothingElseHappens(String text) {
        assertThatThrownBy(() -> CronSchedule.parse(text, LISBON)).isInstanceOf(ScheduleSyntaxException.class);
        assertThatThrownBy(() -> Zones.parse(text)).isInstanceOf(ScheduleSyntaxException.class);
    }
}
