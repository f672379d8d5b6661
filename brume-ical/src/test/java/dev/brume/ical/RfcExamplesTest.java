package dev.brume.ical;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.schedule.Occurrence;
import dev.brume.schedule.RuleSchedule;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** The examples of RFC 5545, section 3.8.5.3, in the order given there. */
class RfcExamplesTest {
    private static final ZoneId NEW_YORK = ZoneId.of("America/New_York");
    private static final DateTimeFormatter DAY = DateTimeFormatter.ofPattern("uuMMdd");

    private static RuleSchedule rule(String start, String rule) {
        return RuleSchedule.parse("DTSTART;TZID=America/New_York:" + start + "\nRRULE:" + rule, NEW_YORK);
    }

    private static List<LocalDateTime> first(RuleSchedule schedule, int most) {
        List<LocalDateTime> times = new ArrayList<>();
        Optional<Occurrence> next = schedule.next(Instant.EPOCH);
        while (next.isPresent() && times.size() < most) {
            times.add(next.get().local());
            next = schedule.next(next.get().instant());
        }
        return times;
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
        970902 | FREQ=DAILY;COUNT=10 | 970902 970903 970904 970905 970906 970907 970908 970909 970910 970911 .
        970902 | FREQ=DAILY;INTERVAL=2 | 970902 970904 970906 970908 970910 970912 970914 970916 970918 970920 970922 970924 970926 970928 970930 971002
        970902 | FREQ=DAILY;INTERVAL=10;COUNT=5 | 970902 970912 970922 971002 971012 .
        970902 | FREQ=WEEKLY;COUNT=10 | 970902 970909 970916 970923 970930 971007 971014 971021 971028 971104 .
        970902 | FREQ=WEEKLY;UNTIL=19971224T000000Z | 970902 970909 970916 970923 970930 971007 971014 971021 971028 971104 971111 971118 971125 971202 971209 971216 971223 .
        970902 | FREQ=WEEKLY;INTERVAL=2;WKST=SU | 970902 970916 970930 971014 971028 971111 971125 971209 971223 980106 980120 980203 980217
        970902 | FREQ=WEEKLY;UNTIL=19971007T000000Z;WKST=SU;BYDAY=TU,TH | 970902 970904 970909 970911 970916 970918 970923 970925 970930 971002 .
        970902 | FREQ=WEEKLY;COUNT=10;WKST=SU;BYDAY=TU,TH | 970902 970904 970909 970911 970916 970918 970923 970925 970930 971002 .
        970901 | FREQ=WEEKLY;INTERVAL=2;UNTIL=19971224T000000Z;WKST=SU;BYDAY=MO,WE,FR | 970901 970903 970905 970915 970917 970919 970929 971001 971003 971013 971015 971017 971027 971029 971031 971110 971112 971114 971124 971126 971128 971208 971210 971212 971222 .
        970902 | FREQ=WEEKLY;INTERVAL=2;COUNT=8;WKST=SU;BYDAY=TU,TH | 970902 970904 970916 970918 970930 971002 971014 971016 .
        970905 | FREQ=MONTHLY;COUNT=10;BYDAY=1FR | 970905 971003 971107 971205 980102 980206 980306 980403 980501 980605 .
        970905 | FREQ=MONTHLY;UNTIL=19971224T000000Z;BYDAY=1FR | 970905 971003 971107 971205 .
        970907 | FREQ=MONTHLY;INTERVAL=2;COUNT=10;BYDAY=1SU,-1SU | 970907 970928 971102 971130 980104 980125 980301 980329 980503 980531 .
        970922 | FREQ=MONTHLY;COUNT=6;BYDAY=-2MO | 970922 971020 971117 971222 980119 980216 .
        970928 | FREQ=MONTHLY;BYMONTHDAY=-3 | 970928 971029 971128 971229 980129 980226
        970902 | FREQ=MONTHLY;COUNT=10;BYMONTHDAY=2,15 | 970902 970915 971002 971015 971102 971115 971202 971215 980102 980115 .
        970930 | FREQ=MONTHLY;COUNT=10;BYMONTHDAY=1,-1 | 970930 971001 971031 971101 971130 971201 971231 980101 980131 980201 .
        970910 | FREQ=MONTHLY;INTERVAL=18;COUNT=10;BYMONTHDAY=10,11,12,13,14,15 | 970910 970911 970912 970913 970914 970915 990310 990311 990312 990313 .
        970902 | FREQ=MONTHLY;INTERVAL=2;BYDAY=TU | 970902 970909 970916 970923 970930 971104 971111 971118 971125 980106 980113 980120 980127 980303 980310 980317 980324 980331
        970610 | FREQ=YEARLY;COUNT=10;BYMONTH=6,7 | 970610 970710 980610 980710 990610 990710 000610 000710 010610 010710 .
        970310 | FREQ=YEARLY;INTERVAL=2;COUNT=10;BYMONTH=1,2,3 | 970310 990110 990210 990310 010110 010210 010310 030110 030210 030310 .
        970101 | FREQ=YEARLY;INTERVAL=3;COUNT=10;BYYEARDAY=1,100,200 | 970101 970410 970719 000101 000409 000718 030101 030410 030719 060101 .
        970519 | FREQ=YEARLY;BYDAY=20MO | 970519 980518 990517
        970512 | FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO | 970512 980511 990517
        970313 | FREQ=YEARLY;BYMONTH=3;BYDAY=TH | 970313 970320 970327 980305 980312 980319 980326 990304 990311 990318 990325
        970605 | FREQ=YEARLY;BYDAY=TH;BYMONTH=6,7,8 | 970605 970612 970619 970626 970703 970710 970717 970724 970731 970807 970814 970821 970828 980604
        970913 | FREQ=MONTHLY;BYDAY=SA;BYMONTHDAY=7,8,9,10,11,12,13 | 970913 971011 971108 971213 980110 980207 980307 980411 980509 980613
        961105 | FREQ=YEARLY;INTERVAL=4;BYMONTH=11;BYDAY=TU;BYMONTHDAY=2,3,4,5,6,7,8 | 961105 001107 041102
        970904 | FREQ=MONTHLY;COUNT=3;BYDAY=TU,WE,TH;BYSETPOS=3 | 970904 971007 971106 .
        970929 | FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2 | 970929 971030 971127 971230 980129 980226 980330
        970805 | FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=MO | 970805 970810 970819 970824 .
        970805 | FREQ=WEEKLY;INTERVAL=2;COUNT=4;BYDAY=TU,SU;WKST=SU | 970805 970817 970819 970831 .
        070115 | FREQ=MONTHLY;BYMONTHDAY=15,30;COUNT=5 | 070115 070130 070215 070315 070330 .
        """)
    void daysAreThoseOfTheStandard(String start, String text, String expected) {
        String century = start.startsWith("9") ? "19" : "20";
        RuleSchedule schedule = rule(century + start + "T090000", text);
        boolean ends = expected.endsWith(".");
        List<String> days = List.of(expected.replace(" .", "").split(" "));

        List<LocalDateTime> found = first(schedule, days.size() + (ends ? 1 : 0));

        assertThat(found).extracting(time -> time.format(DAY)).isEqualTo(days);
        assertThat(found).allSatisfy(time -> assertThat(time.toLocalTime()).hasToString("09:00"));
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
        FREQ=HOURLY;INTERVAL=3;UNTIL=19970902T210000Z | 09:00 12:00 15:00
        FREQ=MINUTELY;INTERVAL=15;COUNT=6 | 09:00 09:15 09:30 09:45 10:00 10:15
        FREQ=MINUTELY;INTERVAL=90;COUNT=4 | 09:00 10:30 12:00 13:30
        """)
    void timesAreThoseOfTheStandard(String text, String expected) {
        assertThat(first(rule("19970902T090000", text), 10))
                .extracting(time -> time.toLocalTime().toString())
                .containsExactly(expected.split(" "));
    }

    @Test
    void everyDayInJanuaryForThreeYearsInBothWays() {
        List<LocalDateTime> yearly = first(
                rule("19980101T090000", "FREQ=YEARLY;UNTIL=20000131T140000Z;BYMONTH=1;BYDAY=SU,MO,TU,WE,TH,FR,SA"),
                200);

        assertThat(yearly).hasSize(93).allMatch(time -> time.getMonthValue() == 1);
        assertThat(first(rule("19980101T090000", "FREQ=DAILY;UNTIL=20000131T140000Z;BYMONTH=1"), 200))
                .isEqualTo(yearly);
    }

    @Test
    void everyDayUntilChristmasEveIsWithoutIt() {
        List<LocalDateTime> days = first(rule("19970902T090000", "FREQ=DAILY;UNTIL=19971224T000000Z"), 200);

        assertThat(days).hasSize(113);
        assertThat(days.get(112)).hasToString("1997-12-23T09:00");
    }

    @Test
    void everyTwentyMinutesOfTheDayInBothWays() {
        List<LocalDateTime> daily =
                first(rule("19970902T090000", "FREQ=DAILY;BYHOUR=9,10,11,12,13,14,15,16;BYMINUTE=0,20,40"), 100);

        assertThat(daily.get(23)).hasToString("1997-09-02T16:40");
        assertThat(daily.get(24)).hasToString("1997-09-03T09:00");
        assertThat(first(rule("19970902T090000", "FREQ=MINUTELY;INTERVAL=20;BYHOUR=9,10,11,12,13,14,15,16"), 100))
                .isEqualTo(daily);
    }

    @Test
    void fridayTheThirteenthWithoutTheStartItself() {
        RuleSchedule schedule = RuleSchedule.parse("""
                DTSTART;TZID=America/New_York:19970902T090000
                EXDATE;TZID=America/New_York:19970902T090000
                RRULE:FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13
                """, NEW_YORK);

        assertThat(first(schedule, 5))
                .extracting(time -> time.format(DAY))
                .containsExactly("980213", "980313", "981113", "990813", "001013");
    }
}
