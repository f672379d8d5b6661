package dev.brume.schedule;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.YearMonth;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.List;
import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** The parts that schedules are made of, against java.time. */
class PartsTest {
    @Test
    void civilDaysAgreeWithLocalDate() {
        SplittableRandom random = new SplittableRandom(1);
        for (int i = 0; i < 20_000; i++) {
            LocalDate date = LocalDate.ofEpochDay(random.nextLong(-700_000, 2_900_000));
            long packed = CivilDays.fromEpochDay(date.toEpochDay());
            assertThat(LocalDate.of(CivilDays.year(packed), CivilDays.month(packed), CivilDays.day(packed)))
                    .isEqualTo(date);
            assertThat(CivilDays.toEpochDay(date.getYear(), date.getMonthValue(), date.getDayOfMonth()))
                    .isEqualTo(date.toEpochDay());
            assertThat(CivilDays.dayOfWeek(date.toEpochDay()))
                    .isEqualTo(date.getDayOfWeek().getValue() % 7);
            assertThat(CivilDays.lengthOfMonth(date.getYear(), date.getMonthValue()))
                    .isEqualTo(YearMonth.from(date).lengthOfMonth());
        }
    }

    @Test
    void segmentsAgreeWithTheZonesOffsetsFarIntoTheFutureToo() {
        SplittableRandom random = new SplittableRandom(2);
        List<String> zones = ZoneId.getAvailableZoneIds().stream().sorted().toList();
        for (int i = 0; i < 5000; i++) {
            ZoneId zone = ZoneId.of(zones.get(random.nextInt(zones.size())));
            long second = random.nextLong(-3_000_000_000L, 12_000_000_000L);
            ZoneSegments.Segment segment = ZoneSegments.of(zone).at(second);
            int expected =
                    zone.getRules().getOffset(Instant.ofEpochSecond(second)).getTotalSeconds();

            assertThat(segment.offset()).as("%s at %s", zone, second).isEqualTo(expected);
            assertThat(second).isGreaterThanOrEqualTo(segment.start()).isLessThan(segment.end());
            if (segment.end() < ZoneSegments.LAST) {
                assertThat(ZoneSegments.of(zone).at(segment.end()).offset()).isEqualTo(segment.offsetAfter());
                assertThat(ZoneSegments.of(zone).at(segment.end()).offsetBefore())
                        .isEqualTo(segment.offset());
            }
        }
    }

    @ParameterizedTest
    @CsvSource({"wrok, work", "WHN, when", "progam, program", "ifBussy, ifBusy", "timelimit, timeLimit"})
    void theNearestWordIsFound(String written, String expected) {
        assertThat(Nearest.to(written, List.of("work", "when", "program", "ifBusy", "timeLimit")))
                .contains(expected);
    }

    @Test
    void nothingNearIsNoSuggestion() {
        assertThat(Nearest.to("xylophone", List.of("work", "when"))).isEmpty();
        assertThat(Nearest.to("", List.of("work"))).isEmpty();
        assertThat(Nearest.to("w".repeat(1000), List.of("work"))).isEmpty();
    }

    @Test
    void aProblemSaysItsPlaceCountedFromOne() {
        ScheduleProblem problem =
                ScheduleProblem.of("minute", "61", 4, "is outside 0-59").suggesting("59");

        assertThat(problem).hasToString("minute: '61' is outside 0-59; did you mean 59? (column 5)");
        assertThat(problem.sentenceWithoutField()).isEqualTo("'61' is outside 0-59; did you mean 59?");
    }

    @Test
    void schedulesWithTheSamePartsAreEqual() {
        ZoneId zone = ZoneId.of("Europe/Lisbon");
        CronSchedule cron = CronSchedule.parse(" 0 9 * * * ", zone);

        assertThat(cron)
                .isEqualTo(CronSchedule.parse("0 9 * * *", zone))
                .hasSameHashCodeAs(CronSchedule.parse("0 9 * * *", zone));
        assertThat(cron.withGap(Gap.SKIP)).isNotEqualTo(cron);
        assertThat(cron.withDays(Days.BOTH)).isNotEqualTo(cron);
        assertThat(EverySchedule.of(Duration.ofHours(1)))
                .isEqualTo(EverySchedule.of(Duration.ofMinutes(60)))
                .hasToString("every 1h");
        assertThat(EverySchedule.of(Duration.ofHours(1)).withZone(zone))
                .isNotEqualTo(EverySchedule.of(Duration.ofHours(1)));
        assertThat(OnceSchedule.parse("2027-05-14T06:00", zone))
                .isNotEqualTo(OnceSchedule.parse("2027-05-14T06:01", zone));
        Terms office = Terms.NONE.within(DailyWindow.parse("08:00-18:00"));
        assertThat(cron.with(office))
                .isEqualTo(cron.with(office))
                .isNotEqualTo(cron.with(office.atMost(3)))
                .isNotEqualTo(cron)
                .isNotEqualTo(cron.withGap(Gap.SKIP).with(office))
                .hasToString("0 9 * * *");
    }

    @Test
    void intervalsAreThoseOfTheRuleWhateverItsTerms() {
        Schedule hourly = CronSchedule.parse("0 * * * *", ZoneOffset.UTC);

        assertThat(hourly.with(Terms.NONE.within(DailyWindow.parse("08:00-18:00")))
                        .smallestInterval())
                .isEqualTo(Duration.ofHours(1));
        assertThat(EverySchedule.of(Duration.ofMinutes(90)).smallestInterval()).isEqualTo(Duration.ofMinutes(90));
        assertThat(OnceSchedule.at(Instant.EPOCH, ZoneOffset.UTC).smallestInterval())
                .isGreaterThan(Duration.ofDays(36525));
    }
}
