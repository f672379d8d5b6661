package dev.brume.schedule;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.zone.ZoneOffsetTransition;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import java.util.SplittableRandom;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

/** Random expressions in every zone there is, around clock changes from 1970 to 2100, against looking at every minute. */
class CronPropertyTest {
    private static final int ROUNDS = Integer.getInteger("brume.property.rounds", 3);
    private static final List<String> ZONES =
            ZoneId.getAvailableZoneIds().stream().sorted().toList();

    @Test
    void nextAndPreviousAgreeWithLookingAtEveryMinute() {
        long seed = Long.getLong("brume.property.seed", 20261123);
        SplittableRandom random = new SplittableRandom(seed);
        for (int i = 0; i < ROUNDS * ZONES.size(); i++) {
            ZoneId zone = ZoneId.of(ZONES.get(i % ZONES.size()));
            CronSchedule cron = randomCron(random, zone);
            Instant from = nearTransition(random, zone);
            Instant until = from.plus(Duration.ofHours(50));
            check("seed " + seed + ", case " + i + ": " + cron + " in " + zone, cron, from, until);
        }
    }

    @Test
    void secondsAgreeWithLookingAtEverySecond() {
        SplittableRandom random = new SplittableRandom(20261128);
        for (int i = 0; i < 400; i++) {
            String text = field(random, 0, 59) + " " + field(random, 0, 59) + " " + field(random, 0, 23) + " * * *";
            CronSchedule cron = CronSchedule.parse(text, ZoneOffset.UTC);
            CronPattern pattern = new CronPattern(CronParser.parse(text), cron.days());
            Instant from = Instant.parse("2026-11-28T00:00:00Z").plusSeconds(random.nextInt(86_400));
            Instant until = from.plusSeconds(10_800);
            List<Instant> expected = Stream.iterate(from, at -> at.isBefore(until), at -> at.plusSeconds(1))
                    .filter(at -> fires(pattern, at.atZone(ZoneOffset.UTC).toLocalTime()))
                    .toList();
            agree(text, cron, from, until, expected);
        }
    }

    private static boolean fires(CronPattern pattern, LocalTime time) {
        return pattern.set(CronField.SECOND).has(time.getSecond())
                && pattern.set(CronField.MINUTE).has(time.getMinute())
                && pattern.set(CronField.HOUR).has(time.getHour());
    }

    private static void check(String name, CronSchedule cron, Instant from, Instant until) {
        CronPattern pattern = new CronPattern(CronParser.parse(cron.text()), cron.days());
        agree(name, cron, from, until, NaiveCron.between(cron, pattern, from, until));
    }

    private static void agree(String name, CronSchedule cron, Instant from, Instant until, List<Instant> expected) {
        List<Instant> forwards =
                cron.between(from, until).map(Occurrence::instant).toList();
        assertThat(forwards).as(name + " forwards from " + from).isEqualTo(expected);
        List<Instant> backwards = new ArrayList<>();
        for (Optional<Occurrence> at = cron.previous(until);
                at.isPresent() && !at.get().instant().isBefore(from);
                at = cron.previous(at.get().instant())) {
            backwards.add(at.get().instant());
        }
        Collections.reverse(backwards);
        assertThat(backwards).as(name + " backwards from " + until).isEqualTo(expected);
        assertThat(cron.count(from, until)).isEqualTo(expected.size());
        assertThat(CronSchedule.parse(cron.toString(), cron.zone()).words())
                .as(name)
                .isNotBlank();
    }

    private static CronSchedule randomCron(SplittableRandom random, ZoneId zone) {
        while (true) {
            String text = field(random, 0, 59) + " " + field(random, 0, 23) + " " + dayField(random, 1, 31) + " "
                    + (random.nextInt(4) == 0 ? field(random, 1, 12) : "*") + " " + dayField(random, 0, 7);
            try {
                CronSchedule cron = CronSchedule.parse(text, zone);
                cron = random.nextBoolean() ? cron.withGap(Gap.values()[random.nextInt(2)]) : cron;
                cron = random.nextBoolean() ? cron.withFold(Fold.values()[random.nextInt(3)]) : cron;
                return random.nextInt(4) == 0 ? cron.withDays(Days.BOTH) : cron;
            } catch (ScheduleSyntaxException neverFires) {
                assertThat(neverFires).hasMessageContaining("never fires");
            }
        }
    }

    private static String dayField(SplittableRandom random, int min, int max) {
        return random.nextInt(3) > 0 ? "*" : field(random, min, max);
    }

    private static String field(SplittableRandom random, int min, int max) {
        int a = min + random.nextInt(max - min + 1);
        int b = min + random.nextInt(max - min + 1);
        int step = 1 + random.nextInt(Math.max(1, (max - min) / 2));
        return switch (random.nextInt(6)) {
            case 0 -> "*";
            case 1 -> "*/" + step;
            case 2 -> a + "-" + b;
            case 3 -> a + "-" + b + "/" + step;
            case 4 -> a + "," + b;
            default -> Integer.toString(a);
        };
    }

    /** A day before a change of clocks, or anywhere if the zone has none. */
    private static Instant nearTransition(SplittableRandom random, ZoneId zone) {
        long second = random.nextLong(0, 4_102_444_800L);
        ZoneOffsetTransition transition = zone.getRules().nextTransition(Instant.ofEpochSecond(second));
        Instant around = transition == null ? Instant.ofEpochSecond(second) : transition.getInstant();
        return around.minusSeconds(86_400 + random.nextInt(3600));
    }
}
