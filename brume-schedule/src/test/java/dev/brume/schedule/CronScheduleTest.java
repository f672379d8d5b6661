package dev.brume.schedule;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class CronScheduleTest {
    private static CronSchedule cron(String text, String zone) {
        return CronSchedule.parse(text, ZoneId.of(zone));
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            15 4 * * *        | Atlantic/Azores     | 2026-03-27T00:00:00Z | 2026-03-27T05:15:00Z |
            30 1 * * *        | Europe/Lisbon       | 2026-03-29T00:00:00Z | 2026-03-29T01:00:00Z | AFTER_GAP
            30 1 * * *        | Europe/Lisbon       | 2026-10-25T00:00:00Z | 2026-10-25T00:30:00Z | FIRST_OF_FOLD
            */30 * * * *      | Europe/Lisbon       | 2026-10-25T00:30:00Z | 2026-10-25T01:00:00Z | SECOND_OF_FOLD
            15 2 * * *        | Australia/Lord_Howe | 2026-10-03T15:00:00Z | 2026-10-03T15:30:00Z | AFTER_GAP
            0 0 * * *         | America/Havana      | 2026-03-08T04:00:00Z | 2026-03-08T05:00:00Z | AFTER_GAP
            0 12 30 12 *      | Pacific/Apia        | 2011-12-29T00:00:00Z | 2011-12-30T10:00:00Z | AFTER_GAP
            0 12 L 2 *        | Atlantic/Azores     | 2028-01-01T00:00:00Z | 2028-02-29T13:00:00Z |
            0 12 L-2 2 *      | UTC                 | 2026-01-01T00:00:00Z | 2026-02-26T12:00:00Z |
            0 9 15W * *       | UTC                 | 2026-08-01T00:00:00Z | 2026-08-14T09:00:00Z |
            0 9 1W * *        | UTC                 | 2026-08-01T00:00:00Z | 2026-08-03T09:00:00Z |
            0 9 31W * *       | UTC                 | 2026-05-01T00:00:00Z | 2026-05-29T09:00:00Z |
            0 9 LW * *        | UTC                 | 2026-05-01T00:00:00Z | 2026-05-29T09:00:00Z |
            0 9 * * 5L        | UTC                 | 2026-11-01T00:00:00Z | 2026-11-27T09:00:00Z |
            0 9 * * FRI#2     | UTC                 | 2026-11-01T00:00:00Z | 2026-11-13T09:00:00Z |
            0 9 * * 7#5       | UTC                 | 2026-11-01T00:00:00Z | 2026-11-29T09:00:00Z |
            0 9 * * FRI-MON   | UTC                 | 2026-11-24T10:00:00Z | 2026-11-27T09:00:00Z |
            0 22-2 * * *      | UTC                 | 2026-11-24T02:30:00Z | 2026-11-24T22:00:00Z |
            0 22-3/2 * * *    | UTC                 | 2026-11-24T22:30:00Z | 2026-11-25T00:00:00Z |
            10/20 * * * *     | UTC                 | 2026-11-24T10:31:00Z | 2026-11-24T10:50:00Z |
            */20 * * * * *    | UTC                 | 2026-11-24T10:31:05Z | 2026-11-24T10:31:20Z |
            0 0 13 * FRI      | UTC                 | 2026-11-02T00:00:00Z | 2026-11-06T00:00:00Z |
            0 0 29 2 *        | UTC                 | 2096-03-01T00:00:00Z | 2104-02-29T00:00:00Z |
            @weekly           | UTC                 | 2026-11-24T00:00:00Z | 2026-11-29T00:00:00Z |
            0 0 ? * MON       | UTC                 | 2026-11-24T00:00:00Z | 2026-11-30T00:00:00Z |
            """)
    void nextIsTheFirstStrictlyAfter(String text, String zone, Instant after, Instant expected, String note) {
        Occurrence next = cron(text, zone).next(after).orElseThrow();

        assertThat(next.instant()).isEqualTo(expected);
        assertThat(next.notes()).extracting(Note::name).isEqualTo(note == null ? List.of() : List.of(note));
        assertThat(cron(text, zone).next(expected).orElseThrow().instant()).isAfter(expected);
        assertThat(cron(text, zone).previous(expected.plusNanos(1)).orElseThrow())
                .isEqualTo(next);
    }

    @Test
    void theNominalTimeIsTheOneTheRuleNamed() {
        Occurrence moved = cron("30 1 * * *", "Europe/Lisbon")
                .next(Instant.parse("2026-03-29T00:00:00Z"))
                .orElseThrow();

        assertThat(moved.nominal()).hasToString("2026-03-29T01:30");
        assertThat(moved.local()).hasToString("2026-03-29T02:00");
    }

    @Test
    void severalTimesInOneGapAreOwedOnce() {
        List<Instant> instants = cron("*/10 1 * * *", "Europe/Lisbon")
                .between(Instant.parse("2026-03-29T00:00:00Z"), Instant.parse("2026-03-29T12:00:00Z"))
                .map(Occurrence::instant)
                .toList();

        assertThat(instants).containsExactly(Instant.parse("2026-03-29T01:00:00Z"));
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            * * * *             | has 4 fields
            60 * * * *          | minute: '60' is outside 0-59 (column 1)
            0 9 * JANUARY *     | did you mean JAN?
            0 9 * * MONDY       | did you mean MON?
            0 9 * * MON 2027    | there is no year field
            0 0 12 1 1 ? 2027   | there is no year field
            0 9 31 4 *          | never fires
            0 9 30 2 *          | never fires
            */0 * * * *         | step outside 1-60
            0 9 1,,3 * *        | empty item
            0 9 * * L           | needs a weekday before it
            0 9 * * FRI#6       | week 6
            0 9 32W * *         | outside 1W-31W
            @dayly              | did you mean @daily?
            1-2-3 * * * *       | minute
            a b c d e           | day-of-week: 'e' is not a value
            """)
    void whatIsWrongIsSaidWithItsPlace(String text, String expected) {
        assertThatThrownBy(() -> cron(text, "UTC"))
                .isInstanceOf(ScheduleSyntaxException.class)
                .hasMessageContaining(expected);
    }

    @Test
    void allThatIsWrongIsSaidTogetherInOrder() {
        ScheduleSyntaxException thrown =
                catchThrowableOfType(ScheduleSyntaxException.class, () -> cron("61 25 32 13 9", "UTC"));

        assertThat(thrown.problems())
                .extracting(ScheduleProblem::field)
                .containsExactly("minute", "hour", "day-of-month", "month", "day-of-week");
        assertThat(thrown.problems()).extracting(ScheduleProblem::index).containsExactly(0, 3, 6, 9, 12);
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            15 4 * * *          | At 04:15 every day, Azores time
            0 6 * * MON-FRI     | At 06:00 on workdays (Monday to Friday), Azores time
            15 4 L * *          | At 04:15 on the last day of the month, Azores time
            0 9 13 * FRI        | At 09:00 on the 13th and also on Fridays (either is enough), Azores time
            */5 * * * *         | Every 5 minutes, Azores time
            * * * * *           | Every minute, Azores time
            0 * * * *           | Hourly at :00, Azores time
            10 */2 * * *        | Every 2 hours at :10, Azores time; a time that clocks skip is left out, and one that comes twice counts twice
            */15 8-17 * * 1-5   | Every 15 minutes from 08:00 until 18:00 on workdays (Monday to Friday), Azores time
            0 9 * * SAT#1       | At 09:00 on the first Saturday of the month, Azores time
            0 9,12,17 * 6-8 *   | At 09:00, 12:00 and 17:00 every day, June to August, Azores time
            */10 * * * * *      | Every 10 seconds, Azores time
            5,10 * * * * *      | At seconds 5 and 10 of every minute, Azores time
            5,10 9 * * * *      | At seconds 5 and 10 during minute 9, Azores time
            7 * * * * *         | Every minute, at second 7, Azores time
            30 15 4 * * *       | At 04:15:30 every day, Azores time
            10-20 * * * *       | Every minute from :10 until :21, Azores time
            10,20 * * * *       | Hourly at :10 and :20, Azores time
            5-50/15 9-17 * * *  | Hourly at :05, :20, :35 and :50 from 09:00 until 18:00, Azores time
            * 9 * * *           | Every minute in the hour from 09:00, Azores time
            * 9,17 * * *        | Every minute in the hours from 09:00 and 17:00, Azores time
            5 8-23 * * *        | Hourly at :05 from 08:00 until 24:00, Azores time
            0 9 1-7 * *         | At 09:00 on the 1st to the 7th, Azores time
            0 9 1,2 * *         | At 09:00 on the 1st and 2nd, Azores time
            0 9 1-31 * MON      | At 09:00 on every day of the month and also on Mondays (either is enough), Azores time
            0 9 L-3 * *         | At 09:00 on the day 3 days before the last of the month, Azores time
            0 9 L-1 * *         | At 09:00 on the last day but one of the month, Azores time
            0 9 LW,15W * *      | At 09:00 on the last workday (Monday to Friday) of the month and the workday (Monday to Friday) nearest the 15th, Azores time
            0 9 * * FRI-MON     | At 09:00 on Mondays, Fridays, Saturdays and Sundays, Azores time
            0 9 * * SAT,SUN     | At 09:00 on Saturdays and Sundays, Azores time
            0 9 * * 1-7         | At 09:00 on every day of the week, Azores time
            0 9 * * 5L,2#3      | At 09:00 on the last Friday of the month and the third Tuesday of the month, Azores time
            0 9 * 1,7 *         | At 09:00 every day in January and July, Azores time
            """)
    void wordsSayWhatItDoes(String text, String expected) {
        assertThat(cron(text, "Atlantic/Azores").words()).isEqualTo(expected);
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            0 9 * * *            | 1d
            0 9,12 * * *         | 3h
            */15 8-17 * * *      | 15m
            0,59 0,23 * * *      | 1m
            59 23,0 * * *        | 1h
            */20 * * * * *       | 20s
            * * * * * *          | 1s
            58 59 23,0 * * *     | 1h
            30 0,58 0 * * *      | 58m
            10,40 30 12 * * *    | 30s
            """)
    void theShortestIntervalIsThatOfItsTimesOfDay(String text, String expected) {
        assertThat(cron(text, "UTC").smallestInterval()).isEqualTo(Durations.parse(expected));
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            5-XYZ * * * *      | 2  | XYZ
            5-99 * * * *       | 2  | 99
            5,7,77 * * * *     | 4  | 77
            10-20/99 * * * *   | 6  | 99
            10-20/x * * * *    | 6  | x
            */99 * * * *       | 2  | 99
            0 1,/2 * * *       | 4  | /2
            0 9 * * MON-FRX    | 12 | FRX
            0 9 * * XL         | 8  | XL
            0 9 L-31 * *       | 4  | L-31
            0 9 0W * *         | 4  | 0W
            0 9 * * SUN#0      | 8  | SUN#0
            0 9 * * 8#2        | 8  | 8
            """)
    void aProblemNamesTheValueAndWhereItStands(String text, int index, String value) {
        ScheduleSyntaxException thrown = catchThrowableOfType(ScheduleSyntaxException.class, () -> cron(text, "UTC"));

        assertThat(thrown.problems()).hasSize(1);
        assertThat(thrown.problems().get(0).index()).isEqualTo(index);
        assertThat(thrown.problems().get(0).sentence()).contains("'" + value + "'");
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            0 9 L-30 * *        | 2026-12-01
            0 9 1W * *          | 2026-12-01
            0 9 31W * *         | 2026-12-31
            0 9 * * SUN#5       | 2026-11-29
            0 9 * * 7L          | 2026-11-29
            0 9 * * 0L          | 2026-11-29
            0 9 30-2 * *        | 2026-11-30
            0 9 2/10 * *        | 2026-12-02
            0 9 31/1 * *        | 2026-12-31
            """)
    void theOutermostValuesAreAllowed(String text, LocalDate expected) {
        assertThat(cron(text, "UTC")
                        .next(Instant.parse("2026-11-28T12:00:00Z"))
                        .orElseThrow()
                        .local()
                        .toLocalDate())
                .isEqualTo(expected);
    }

    @Test
    void theHourFieldDecidesTheDefaultPolicies() {
        assertThat(cron("0 * * * *", "UTC").gap()).isEqualTo(Gap.SKIP);
        assertThat(cron("0 */2 * * *", "UTC").fold()).isEqualTo(Fold.BOTH);
        assertThat(cron("0 0-23 * * *", "UTC").fold()).isEqualTo(Fold.BOTH);
        assertThat(cron("0 2 * * *", "UTC").gap()).isEqualTo(Gap.AFTER);
        assertThat(cron("0 2-4 * * *", "UTC").fold()).isEqualTo(Fold.FIRST);
    }

    @Test
    void nothingFollowsTheEndOfTime() {
        CronSchedule cron = cron("0 0 1 1 *", "UTC");

        assertThat(cron.next(Instant.MAX)).isEmpty();
        assertThat(cron.next(Instant.parse("9999-12-31T00:00:00Z"))).isEmpty();
        assertThat(cron.previous(Instant.MIN)).isEmpty();
        assertThat(cron.next(Instant.MIN)).isPresent();
    }
}
