package dev.brume.ical;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.schedule.LocalTimes;
import dev.brume.schedule.RuleSchedule;
import dev.brume.schedule.ScheduleSyntaxException;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.ZoneId;
import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;

/** Mutilated texts: either they are read or they are refused with the one documented exception, and soon. */
@Timeout(120)
class IcalFuzzTest {
    private static final ZoneId ZONE = ZoneId.of("Europe/Lisbon");
    private static final String[] RULES = {
        "DTSTART;TZID=America/Halifax:20270105T090000\nRRULE:FREQ=MONTHLY;BYDAY=1SU,-1SU;BYMONTH=3,4,5",
        "DTSTART:20270105T090000Z\nRRULE:FREQ=SECONDLY;INTERVAL=7;BYHOUR=3;BYMINUTE=1,2;COUNT=50\nEXDATE:20270105T090000Z",
        "DTSTART;VALUE=DATE:20270105\nRRULE:FREQ=YEARLY;BYWEEKNO=20,-1;BYDAY=MO;WKST=SU\nRDATE;VALUE=DATE:20270107",
        "DTSTART:20270105T090000\nRRULE:FREQ=MONTHLY;BYDAY=MO,TU;BYSETPOS=-2;UNTIL=20300101T000000Z"
    };
    private static final String FILE =
            "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:1\r\nSUMMARY:Lantern days\r\n"
                    + "DTSTART;VALUE=DATE:20261224\r\nDTEND;VALUE=DATE:20261226\r\nRRULE:FREQ=YEARLY;COUNT=9\r\n"
                    + "EXDATE;VALUE=DATE:20281224\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n";
    private static final String LETTERS = "0123456789:;,=-+TZ\n\r \"PFREQBYDAYMO\\ä\0";

    private final SplittableRandom random = new SplittableRandom(Long.getLong("brume.fuzz.seed", 7));

    private String mutilated(String text) {
        StringBuilder mutant = new StringBuilder(text);
        for (int i = 0; i < 1 + random.nextInt(3) && mutant.length() > 0; i++) {
            int at = random.nextInt(mutant.length());
            switch (random.nextInt(4)) {
                case 0 -> mutant.deleteCharAt(at);
                case 1 -> mutant.insert(at, LETTERS.charAt(random.nextInt(LETTERS.length())));
                case 2 -> mutant.setCharAt(at, LETTERS.charAt(random.nextInt(LETTERS.length())));
                default -> mutant.insert(at, mutant.substring(at, Math.min(mutant.length(), at + random.nextInt(20))));
            }
        }
        return mutant.toString();
    }

    @Test
    void rules() {
        int accepted = 0;
        for (int i = 0; i < 6000; i++) {
            String text = mutilated(RULES[i % RULES.length]);
            try {
                RuleSchedule rule = RuleSchedule.parse(text, ZONE);
                rule.next(Instant.parse("2027-06-01T00:00:00Z"));
                assertThat(rule.words()).isNotBlank();
                assertThat(rule.clock().times().previous(0)).isGreaterThanOrEqualTo(LocalTimes.NONE);
                accepted++;
            } catch (ScheduleSyntaxException refused) {
                assertThat(refused.problems()).as(text).isNotEmpty();
            }
        }
        assertThat(accepted).isGreaterThan(100);
    }

    @Test
    void files() {
        int accepted = 0;
        for (int i = 0; i < 6000; i++) {
            String text = mutilated(FILE);
            try {
                assertThat(CalendarFile.read(text.getBytes(StandardCharsets.UTF_8), ZONE))
                        .isNotNull();
                accepted++;
            } catch (ScheduleSyntaxException refused) {
                assertThat(refused.problems()).as(text).isNotEmpty();
            }
        }
        assertThat(accepted).isGreaterThan(100);
    }

    @Test
    void whatIsFarTooLongIsRefusedBeforeItIsLookedAt() {
        String longRule = "DTSTART:20270105T090000\nEXDATE:" + "20270105T090000,".repeat(100_000);
        assertThat(org.assertj.core.api.Assertions.catchThrowable(() -> RuleSchedule.parse(longRule, ZONE)))
                .isInstanceOf(ScheduleSyntaxException.class)
                .hasMessageContaining("longer than");
    }
}
