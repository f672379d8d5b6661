package dev.brume.ical;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.schedule.Gap;
import dev.brume.schedule.LocalTimes;
import dev.brume.schedule.Note;
import dev.brume.schedule.Occurrence;
import dev.brume.schedule.RuleSchedule;
import dev.brume.schedule.ScheduleSyntaxException;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Set;
import java.util.SplittableRandom;
import net.fortuna.ical4j.model.Recur;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class RuleTest {
    private static final ZoneId LISBON = ZoneId.of("Europe/Lisbon");

    private static RuleSchedule rule(String text) {
        return RuleSchedule.parse(text.replace("!", "\n"), LISBON);
    }

    private static List<String> between(RuleSchedule rule, String from, String until) {
        return rule.between(Instant.parse(from + "T00:00:00Z"), Instant.parse(until + "T00:00:00Z"))
                .map(occurrence -> occurrence.local() + (occurrence.notes().isEmpty() ? "" : " " + occurrence.notes()))
                .toList();
    }

    @Test
    void aTimeInAGapIsOwedAfterItAndOneInAFoldTheFirstTimeUnlessStated() {
        RuleSchedule nightly = rule("DTSTART:20260101T013000!RRULE:FREQ=DAILY");

        assertThat(between(nightly, "2026-03-29", "2026-03-30")).containsExactly("2026-03-29T02:00 [AFTER_GAP]");
        assertThat(between(nightly.withGap(Gap.SKIP), "2026-03-29", "2026-03-30"))
                .isEmpty();
        assertThat(nightly.next(Instant.parse("2026-10-25T00:00:00Z")).map(Occurrence::notes))
                .contains(Set.of(Note.FIRST_OF_FOLD));
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            DTSTART:20270105T090000!RRULE:FREQ=WEEKLY;COUNT=2!RDATE:20270106T100000 | 2027-01-05T09:00 2027-01-06T10:00 2027-01-12T09:00
            DTSTART:20270105T090000!RRULE:FREQ=DAILY;COUNT=3!EXDATE:20270106T090000 | 2027-01-05T09:00 2027-01-07T09:00
            DTSTART:20270105T090000!RDATE:20270107T090000,20270106T090000 | 2027-01-05T09:00 2027-01-06T09:00 2027-01-07T09:00
            DTSTART;TZID=Europe/Madrid:20270105T090000 | 2027-01-05T09:00
            DTSTART:20270105T090000Z!RRULE:FREQ=HOURLY;INTERVAL=6;COUNT=3 | 2027-01-05T09:00 2027-01-05T15:00 2027-01-05T21:00
            DTSTART;VALUE=DATE:20270105!RRULE:FREQ=DAILY;UNTIL=20270106 | 2027-01-05T00:00 2027-01-06T00:00
            DTSTART:20270105T090000!RRULE:FREQ=MONTHLY;BYDAY=1SU;COUNT=2 | 2027-01-05T09:00 2027-02-07T09:00
            DTSTART:20270105T090000!RRULE:FREQ=MONTHLY;BY! DAY=1SU;CO! UNT=2; | 2027-01-05T09:00 2027-02-07T09:00
            dtstart;tzid=GMT Standard Time:20270105t090000!rrule:freq=daily;count=2;!exdate:20270106t090000, | 2027-01-05T09:00
            """)
    void allItsLinesCount(String text, String expected) {
        assertThat(between(rule(text), "2027-01-01", "2027-03-01")).containsExactly(expected.split(" "));
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            RRULE:FREQ=DAILY | has no DTSTART
            DTSTART:20270105T090000!RRULE:FREQ=DAILY;INTERVAL=0 | INTERVAL below 1
            DTSTART:20270105T090000!RRULE:FREQ=DAILY;COUNT=2;UNTIL=20280101T000000Z | both COUNT and UNTIL
            DTSTART:20270105T090000!RRULE:FREQ=DAILY;FREQ=WEEKLY | comes twice
            DTSTART:20270105T090000!RRULE:COUNT=2 | has no FREQ
            DTSTART:20270105T090000!RRULE:FREQ=DAILY;BYDAYS=MO | did you mean BYDAY?
            DTSTART:20270105T090000!RRULE:FREQ=DAILY;BYDAY=1MO | counts weekdays
            DTSTART:20270105T090000!RRULE:FREQ=WEEKLY;BYMONTHDAY=3 | does not go with WEEKLY
            DTSTART:20270105T090000!RRULE:FREQ=MONTHLY;BYWEEKNO=3 | FREQ=YEARLY
            DTSTART:20270105T090000!RRULE:FREQ=DAILY;BYSETPOS=1 | BYSETPOS without
            DTSTART:20270105T090000!RRULE:FREQ=DAILY;BYHOUR=24 | cannot be read
            DTSTART:20270105T090000!RRULE:FREQ=DAILY;COUNT=9999999 | COUNT above
            DTSTART:20270105T090000!RRULE:FREQ=DAILY!RRULE:FREQ=WEEKLY | comes twice
            DTSTART:20270105T090000!EXRULE:FREQ=DAILY | does not belong to a rule
            DTSTART:20270105T090000!EXDATE:20270105T090000 | never fires
            DTSTART;TZID=Lisbon:20270105T090000!RRULE:FREQ=DAILY | did you mean Europe/Lisbon?
            DTSTART:5 January | is not a date or time
            """)
    void whatIsWrongIsSaid(String text, String expected) {
        assertThatThrownBy(() -> rule(text))
                .isInstanceOf(ScheduleSyntaxException.class)
                .hasMessageContaining(expected);
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            DTSTART:20270105T090000!RRULE:FREQ=WEEKLY;INTERVAL=2;BYDAY=TU,TH | Every 2 weeks on Tuesdays and Thursdays at 09:00, Lisbon time, from Tuesday 5 January 2027 at 09:00
            DTSTART:20270105T090000!RRULE:FREQ=MONTHLY;BYMONTHDAY=1,-1;COUNT=10 | Every month on days 1 and last of the month at 09:00, Lisbon time, from Tuesday 5 January 2027 at 09:00, 10 times in all
            DTSTART:20270105T090000!RRULE:FREQ=YEARLY;BYMONTH=6;BYDAY=-1SA | Every year on the last Saturday in June at 09:00, Lisbon time, from Tuesday 5 January 2027 at 09:00
            DTSTART:20270105T090000 | On Tuesday 5 January 2027 at 09:00, Lisbon time
            """)
    void wordsSayWhatItDoes(String text, String expected) {
        assertThat(rule(text).words()).isEqualTo(expected);
    }

    @ParameterizedTest
    @CsvSource({
        "FREQ=SECONDLY;BYMONTH=2;BYMONTHDAY=30",
        "FREQ=SECONDLY;INTERVAL=60;BYSECOND=30",
        "FREQ=MINUTELY;INTERVAL=2;BYMINUTE=1",
        "FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30",
        "FREQ=HOURLY;INTERVAL=24;BYHOUR=3",
        "FREQ=DAILY;BYMONTHDAY=31;BYMONTH=6"
    })
    void aRuleThatNamesNothingButItsStartEndsItsSearch(String text) {
        RuleSchedule never = rule("DTSTART:20270105T090000!RRULE:" + text);
        Instant start = Instant.parse("2027-01-05T09:00:00Z");

        assertThat(never.next(start)).isEmpty();
        assertThat(never.previous(Instant.parse("2300-01-01T00:00:00Z")).map(Occurrence::instant))
                .contains(start);
    }

    @Test
    void aSparseRuleFarFromItsStartIsFoundAtOnce() {
        RuleSchedule leap = rule("DTSTART:19720229T003007!RRULE:FREQ=SECONDLY;INTERVAL=7;BYMONTH=2;BYMONTHDAY=29");

        assertThat(leap.next(Instant.parse("2097-01-01T00:00:00Z"))
                        .map(next -> next.local().toLocalDate()))
                .hasValueSatisfying(day -> assertThat(day).isEqualTo("2104-02-29"));
    }

    // Random rules, against the library that reads them, which expands each from its start.

    @Test
    void timesAreThoseOfAnIndependentExpansion() {
        long seed = Long.getLong("brume.property.seed", 20261125);
        SplittableRandom random = new SplittableRandom(seed);
        for (int i = 0; i < 300; i++) {
            String text = randomRule(random);
            LocalDateTime start = LocalDateTime.of(2026, 1, 1, 0, 0).plusMinutes(random.nextInt(500_000));
            LocalDateTime until = start.plusDays(text.contains("YEARLY") ? 4000 : text.contains("LY") ? 400 : 0);
            List<LocalDateTime> expected =
                    new ArrayList<>(new Recur<LocalDateTime>(text).getDates(start, start, until));
            expected.remove(start);
            Recurrence own = new Recurrence(RuleParts.read(text, LISBON), start);
            String name = "seed " + seed + ", case " + i + ": " + text + " from " + start;

            List<LocalDateTime> forwards = forwards(own, start, until);
            assertThat(forwards)
                    .as(name)
                    .isEqualTo(expected.stream().sorted().distinct().toList());
            assertThat(backwards(own, start, until)).as(name + " backwards").isEqualTo(forwards);
            assertThat(own.count(seconds(start) + 1, seconds(until) + 1))
                    .as(name + " counted")
                    .isEqualTo(forwards.size());
        }
    }

    private static long seconds(LocalDateTime local) {
        return local.toEpochSecond(ZoneOffset.UTC);
    }

    @Test
    void shortPeriodsAreCountedAsTheyAreSearched() {
        long seed = Long.getLong("brume.property.seed", 20261128);
        SplittableRandom random = new SplittableRandom(seed);
        for (int i = 0; i < 300; i++) {
            String[] units = {"HOURLY", "MINUTELY", "SECONDLY"};
            String text = "FREQ=" + units[random.nextInt(3)]
                    + (random.nextBoolean() ? "" : ";INTERVAL=" + (1 + random.nextInt(5000)))
                    + (random.nextInt(3) > 0 ? "" : ";BYDAY=MO,WE,FR")
                    + (random.nextInt(3) > 0 ? "" : ";BYHOUR=3," + (4 + random.nextInt(20)))
                    + (random.nextInt(3) > 0 ? "" : ";BYMINUTE=0,14,15," + (16 + random.nextInt(44)))
                    + (random.nextInt(3) > 0 ? "" : ";BYSECOND=0,59," + (1 + random.nextInt(58)))
                    + (random.nextInt(6) > 0 ? "" : ";UNTIL=20260106T101112");
            LocalDateTime start = LocalDateTime.of(2026, 1, 1, 0, 0).plusSeconds(random.nextInt(300_000));
            long from = seconds(start) + random.nextInt(200_000) - 50_000;
            long until = from + random.nextInt(200_000);
            LocalTimes own = new RuleTimes(
                    new Recurrence(RuleParts.read(text, LISBON), start),
                    new long[] {from + 1000, from + 5000},
                    new long[] {from + 900, seconds(start) + 60});
            long expected = 0;
            for (long at = own.next(from); at != LocalTimes.NONE && at < until; at = own.next(at + 1)) {
                expected++;
            }
            assertThat(own.count(from, until))
                    .as("seed " + seed + ", case " + i + ": " + text + " from " + start)
                    .isEqualTo(expected);
        }
    }

    private static List<LocalDateTime> forwards(Recurrence rule, LocalDateTime start, LocalDateTime until) {
        List<LocalDateTime> times = new ArrayList<>();
        long end = until.toEpochSecond(ZoneOffset.UTC);
        long at = rule.next(start.toEpochSecond(ZoneOffset.UTC) + 1);
        while (at != LocalTimes.NONE && at <= end) {
            times.add(LocalDateTime.ofEpochSecond(at, 0, ZoneOffset.UTC));
            at = rule.next(at + 1);
        }
        return times;
    }

    private static List<LocalDateTime> backwards(Recurrence rule, LocalDateTime start, LocalDateTime until) {
        List<LocalDateTime> times = new ArrayList<>();
        long begin = start.toEpochSecond(ZoneOffset.UTC);
        for (long at = rule.previous(until.toEpochSecond(ZoneOffset.UTC)); at > begin; at = rule.previous(at - 1)) {
            times.add(LocalDateTime.ofEpochSecond(at, 0, ZoneOffset.UTC));
        }
        Collections.reverse(times);
        return times;
    }

    /**
     * Leaves out where the library departs from the standard: weeks begin on Monday unless WKST says otherwise,
     * WEEKLY;BYMONTH goes by each day's own month, YEARLY;BYMONTHDAY by itself means that day of every month.
     */
    private static String randomRule(SplittableRandom random) {
        String[] weekdays = {"MO", "TU", "WE", "TH", "FR", "SA", "SU"};
        StringBuilder rule = new StringBuilder();
        int frequency = random.nextInt(4);
        rule.append("FREQ=").append(new String[] {"DAILY", "WEEKLY", "MONTHLY", "YEARLY"}[frequency]);
        rule.append(frequency == 1 ? ";WKST=" + weekdays[random.nextInt(7)] : "");
        rule.append(random.nextBoolean() ? "" : ";INTERVAL=" + (1 + random.nextInt(4)));
        boolean yearlyByDate = frequency == 3 && random.nextInt(3) == 0;
        if (yearlyByDate || frequency != 1 && random.nextInt(4) == 0) {
            rule.append(";BYMONTH=").append(1 + random.nextInt(6)).append(',').append(7 + random.nextInt(6));
        }
        if (yearlyByDate || frequency == 2 && random.nextInt(3) == 0) {
            rule.append(";BYMONTHDAY=")
                    .append(1 + random.nextInt(28))
                    .append(",-")
                    .append(1 + random.nextInt(5));
        } else if (random.nextInt(2) == 0) {
            String ordinal = frequency == 2 && random.nextBoolean() ? Integer.toString(1 + random.nextInt(4)) : "";
            rule.append(";BYDAY=")
                    .append(ordinal)
                    .append(weekdays[random.nextInt(3)])
                    .append(',');
            rule.append(ordinal).append(weekdays[3 + random.nextInt(4)]);
        }
        if (random.nextInt(3) == 0) {
            rule.append(";BYHOUR=").append(random.nextInt(12)).append(',').append(12 + random.nextInt(12));
        }
        if (random.nextInt(4) == 0) {
            rule.append(";BYMINUTE=").append(random.nextInt(30)).append(',').append(30 + random.nextInt(30));
        }
        return rule.toString();
    }
}
