package dev.brume.schedule;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.time.ZoneId;
import java.util.SplittableRandom;
import java.util.function.Consumer;
import org.junit.jupiter.api.Test;

/** Whatever text a parser is given, it answers or throws the one documented exception. */
class ParserFuzzTest {
    private static final ZoneId ZONE = ZoneId.of("Atlantic/Azores");
    private static final String LETTERS = "0123456789*/,-?#LW@ \tMONJANSUNTZPdhms:+.abcxyz\u0000é٣";

    private static String text(SplittableRandom random) {
        int length = random.nextInt(random.nextInt(50) == 0 ? 5000 : 30);
        StringBuilder text = new StringBuilder();
        for (int i = 0; i < length; i++) {
            text.append(LETTERS.charAt(random.nextInt(LETTERS.length())));
        }
        return text.toString();
    }

    /** Something right with a few letters changed gets deeper than noise. */
    private static String nearly(SplittableRandom random, String right) {
        StringBuilder text = new StringBuilder(right);
        for (int i = random.nextInt(4); i >= 0; i--) {
            int at = random.nextInt(text.length());
            char letter = LETTERS.charAt(random.nextInt(LETTERS.length()));
            switch (random.nextInt(3)) {
                case 0 -> text.setCharAt(at, letter);
                case 1 -> text.insert(at, letter);
                default -> {
                    if (text.length() > 1) {
                        text.deleteCharAt(at);
                    }
                }
            }
        }
        return text.toString();
    }

    private static int accepted(int texts, Consumer<String> parser, String... right) {
        SplittableRandom random = new SplittableRandom(texts);
        int accepted = 0;
        for (int i = 0; i < texts; i++) {
            String text = random.nextBoolean() ? text(random) : nearly(random, right[random.nextInt(right.length)]);
            try {
                parser.accept(text);
                accepted++;
            } catch (ScheduleSyntaxException documented) {
                assertThat(documented.problems()).as(text).isNotEmpty().allSatisfy(problem -> {
                    assertThat(problem.index()).isBetween(0, Math.max(0, text.length()));
                    assertThat(problem.toString()).isNotBlank();
                });
            }
        }
        return accepted;
    }

    @Test
    void cron() {
        Instant now = Instant.parse("2026-11-23T10:00:00Z");
        int accepted = accepted(
                30_000,
                text -> {
                    CronSchedule cron = CronSchedule.parse(text, ZONE);
                    assertThat(cron.next(now).orElseThrow().instant()).isAfter(now);
                    assertThat(CronSchedule.parse(cron.toString(), ZONE)).isEqualTo(cron);
                    assertThat(cron.words()).isNotBlank();
                },
                "15 4 * * MON-FRI",
                "*/5 8-17/2 1,15,L * *",
                "0 0 9 LW JAN-MAR FRI#2",
                "@daily",
                "0 0 29 2 *");
        assertThat(accepted).isGreaterThan(300);
    }

    @Test
    void durations() {
        int accepted = accepted(
                20_000,
                text -> assertThat(Durations.format(Durations.parse(text))).isNotBlank(),
                "1h30m",
                "90s",
                "PT5M",
                "250ms",
                "2d");
        assertThat(accepted).isGreaterThan(100);
    }

    @Test
    void singleTimes() {
        int accepted = accepted(
                20_000,
                text -> assertThat(OnceSchedule.parse(text, ZONE).zone()).isEqualTo(ZONE),
                "in 10m",
                "2027-05-14T06:00",
                "2027-05-14 06:00:30",
                "2027-05-14T06:00:00Z",
                "2027-05-14T06:00:00.5+02:00");
        assertThat(accepted).isGreaterThan(100);
    }

    @Test
    void zones() {
        accepted(
                600,
                text -> assertThat(Zones.parse(text)).isNotNull(),
                "Europe/Lisbon",
                "UTC",
                "+02:00",
                "Lisbon",
                "CEST");
    }
}
